"""The draft integrator: the same materials, lamps and camera, without noise and fast enough for the hand.

The steps, each kept as long as what it depends on stays the same (`sketch.py`):

1. `surfaces.py`: what each pixel sees (geometry, camera); triangles drawn (`raster.py`) or rays traced.
   The ground's places are not kept.
2. `shadows.py`: at every second pixel, one ray to each lamp and one to the surround. Neighbours aim at
   different spots of a lamp in a 4 × 4 pattern (lamps' places).
3. `ground.py`: at every second of those, what the dull ground sends back, evened out: its light without
   shadows (`grid.py`) by the visibilities. What glows throws none; its light is not evened out.
4. `shade.py`: gathers the 16 neighbouring visibilities that lie on the same surface, which gives soft
   shadows without noise, and adds the mirrored surroundings (strengths, colours, materials).

It is not exact: one bounce of mirrored light, none of matte light. The path integrator follows.
"""
