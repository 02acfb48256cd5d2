"""Compiled loops over triangles: cutting roofs at levels, shading them."""
