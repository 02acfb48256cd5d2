"""What the denoiser and the layers need of the primary hit besides its light."""

from halvex.core.kernels import helper
from halvex.core.optics.material import GLASS, NO_METAL, PEARL
from halvex.core.optics.scattering import metal_reflectance
from halvex.core.optics.vectors import F, add, dot, mul, scale
from halvex.core.render import channels
from halvex.core.render.lights import light_count


@helper
def add3(pixel, at, c):
    """Add c (rgb) to three channels."""
    pixel[at] += c[0]
    pixel[at + 1] += c[1]
    pixel[at + 2] += c[2]


@helper
def albedo_of(materials, si, base, wo):
    """How much light (rgb) a surface sends on, seen from wo; of glass, which shows what is behind it, all."""
    if materials.kind[si.material] == GLASS:
        return F(1.0), F(1.0), F(1.0)
    if materials.metal[si.material] != NO_METAL:
        return mul(base, metal_reflectance(materials, si.material, dot(si.ns, wo)))
    flake = materials.params[si.material, PEARL]
    if flake > F(0.0):
        return add(scale(base, F(1.0) - flake), scale(si.pearl, flake))
    return base


@helper
def write_aovs(world, pixel, si):
    """Write what the denoiser and the layers need of the primary hit, but for albedo."""
    add3(pixel, channels.NORMAL, si.ns)
    pixel[channels.DEPTH] += si.p[2]
    if si.instance < 0:
        pixel[channels.GROUND_COVER] += F(1.0)
        return
    pixel[channels.PART_COVER + si.part] += F(1.0)
    block = channels.SHARES + 3 * light_count(world) + si.frame
    if block < pixel.shape[0]:
        pixel[block] += F(1.0)


@helper
def up_to_white(c):
    return (
        min(max(c[0], F(0.0)), F(1.0)),
        min(max(c[1], F(0.0)), F(1.0)),
        min(max(c[2], F(0.0)), F(1.0)),
    )
