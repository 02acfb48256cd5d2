"""What the levels of its lights alone decide about a piece, and all the rest of it.

A picture is linear in its lights' levels, so what was rendered of a piece serves every piece that
differs in levels only.
"""

from halvex.core.piece import Piece
from halvex.core.piece.light import Lamp
from halvex.core.piece.material import Flat
from halvex.core.scene.lamps import lamp_level
from halvex.core.scene.scene import stuffs_of

# Lights under this level are taken for off; the path integrator leaves out those of a sixteenth of it.
OFF = 2.0**-16


def unlit(piece: Piece) -> Piece:
    """The piece without what the levels of its lights decide: pictures of pieces that differ in nothing else share their samples."""
    neutral = Lamp()
    lamps = tuple(lamp.model_copy(update={"strength": _lit(lamp_level(lamp).max()), "kelvin": neutral.kelvin, "colour": None}) for lamp in piece.light.lamps)
    surround = piece.light.surround.model_copy(update={"strength": _lit(2.0**piece.light.surround.strength)})
    # Flat colours are shown through the exposure, so it is in the film.
    flat = any(isinstance(material, Flat) for block in piece.blocks for material in stuffs_of(block))
    exposure = piece.light.exposure if flat else 0.0
    return piece.model_copy(update={"light": piece.light.model_copy(update={"lamps": lamps, "surround": surround, "exposure": exposure})})


def _lit(level: float) -> float:
    """A strength for all levels alike, but for those of lights too dark to be sampled at all (render/path.py)."""
    return 0.0 if level > OFF else -30.0
