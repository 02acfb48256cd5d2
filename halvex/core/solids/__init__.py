"""Outlines to closed bodies: profiles, the roof, bevels, rims, tubes, slabs, plates and cuts."""

from halvex.core.solids.bodies import block_bodies
from halvex.core.solids.body import letter_body
from halvex.core.solids.faults import SolidError
from halvex.core.solids.mesh import Mesh, PartOf, merged

__all__ = ["Mesh", "PartOf", "SolidError", "block_bodies", "letter_body", "merged"]
