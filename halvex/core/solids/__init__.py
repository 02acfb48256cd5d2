"""Outlines to closed bodies: profiles, the mitred roof, bevels and returns."""

from halvex.core.solids.body import letter_body
from halvex.core.solids.mesh import Mesh, PartOf, merged
from halvex.core.solids.roof import SolidError

__all__ = ["Mesh", "PartOf", "SolidError", "letter_body", "merged"]
