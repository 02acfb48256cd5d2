"""Materials: packed for the kernels, evaluated, sampled.

A material is a row of parameters (see the columns below), an index into the metals' reflectance
tables, and a row of albedo tables: how much of the light a rough surface returns after one bounce.
Metals divide by it so that no energy is lost between facets (Turquin 2019); plastics give what the
coat does not return to the coloured base below, so a white plastic returns everything.

Directions wo, wi are local, z along the shading normal; glass also uses z < 0.
"""

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.colour import hex_to_linear, luminance
from halvex.core.optics.metals import METALS, metal_tables
from halvex.core.optics.microfacet import (
    PI,
    fresnel_dielectric,
    ggx_d,
    sample_visible_normal,
    smith_g1,
    smith_g2,
    visible_normal_pdf,
)
from halvex.core.optics.vectors import F, add, helper, kernel, luminance_of, normalise, scale
from halvex.core.piece.model import Glass, Metal, Plastic

MATTE, METAL, PLASTIC, GLASS = 0, 1, 2, 3

# Columns of a material's parameters.
RED, GREEN, BLUE = 0, 1, 2  # colour of the base, or absorption per px for glass
ALPHA = 3
INDEX = 4
COAT_MEAN = 5  # mean albedo of a plastic's coat
COLUMNS = 6

COSINES = 32  # entries of an albedo table
COAT_INDEX = 1.5
# Below this the facets are flat enough to be a mirror for glass; metals keep a tiny lobe instead.
SMOOTHEST_ALPHA = 1e-3
SMOOTH_GLASS_ALPHA = 4e-3
# Diffuse light inside a coat of index 1.5 is turned back at its surface by this share
# (1 - (1 - F̄)/n², F̄ = 0.0918; the internal diffuse reflectance of Egan & Hilgeman).
INTERNAL_RETURN = 0.596


class Materials(NamedTuple):
    """Packed materials: kind (M,), params (M, COLUMNS), metal (M,), albedo (M, 2, COSINES), tables (metals, angles, 3)."""

    kind: np.ndarray
    params: np.ndarray
    metal: np.ndarray
    albedo: np.ndarray
    tables: np.ndarray


def pack_materials(materials: list[Metal | Plastic | Glass | NDArray[np.float64]], tables: NDArray[np.float32]) -> Materials:
    """Pack materials in order; an array (3,) stands for a matte surface of that linear colour."""
    rows = [_pack(material) for material in materials]
    return Materials(
        np.array([row[0] for row in rows], np.int32),
        np.array([row[1] for row in rows], np.float32),
        np.array([row[2] for row in rows], np.int32),
        np.stack([row[3] for row in rows]).astype(np.float32),
        tables,
    )


def _pack(material: Metal | Plastic | Glass | NDArray[np.float64]) -> tuple[int, list[float], int, NDArray[np.float64]]:
    ones = np.ones((2, COSINES))
    match material:
        case Metal():
            alpha = max(material.roughness**2, SMOOTHEST_ALPHA)
            return METAL, [1, 1, 1, alpha, 1, 0], METALS.index(material.metal), albedo_table(METAL, alpha, 1.0)
        case Plastic():
            alpha = max(material.roughness**2, SMOOTHEST_ALPHA)
            table = albedo_table(PLASTIC, alpha, COAT_INDEX)
            cosines = _table_cosines()
            mean = float(np.trapezoid(2 * cosines * table[0], cosines))
            base = hex_to_linear(material.colour)
            # Light that the coat turns back meets the base again: deep colours grow deeper.
            base = base * (1 - INTERNAL_RETURN) / (1 - base * INTERNAL_RETURN)
            return PLASTIC, [*base, alpha, COAT_INDEX, mean], 0, table
        case Glass():
            alpha = material.roughness**2
            transmitted = np.maximum(hex_to_linear(material.tint), 1e-4)
            absorption = -np.log(transmitted) / material.tint_depth
            table = ones if alpha < SMOOTH_GLASS_ALPHA else albedo_table(GLASS, alpha, material.index)
            return GLASS, [*absorption, alpha if alpha >= SMOOTH_GLASS_ALPHA else 0.0, material.index, 0], 0, table
        case _:
            return MATTE, [*material, 1, 1, 0], 0, ones


def _table_cosines() -> NDArray[np.float64]:
    return (np.arange(COSINES) + 0.5) / COSINES


@lru_cache(maxsize=256)
def albedo_table(kind: int, alpha: float, index: float) -> NDArray[np.float64]:
    """Directional albedo (2, COSINES) of one bounce; row 1 is from the inside, for glass."""
    table = np.empty((2, COSINES), np.float32)
    _integrate_albedo(kind, F(alpha), F(index), table)
    return table.astype(float)


@kernel
def _integrate_albedo(kind, alpha, index, table):
    side_count = 2 if kind == GLASS else 1
    steps = 64
    for side in range(side_count):
        eta = index if side == 0 else F(1.0) / index
        for c in range(COSINES):
            cos_o = (F(c) + F(0.5)) / F(COSINES)
            wo = (math.sqrt(F(1.0) - cos_o * cos_o), F(0.0), cos_o)
            total = F(0.0)
            for i in range(steps):
                for j in range(steps):
                    # A lattice with shifted rows covers the square evenly without lining up.
                    u1 = (F(i) + (F(j) * F(0.61803399)) % F(1.0)) / F(steps)
                    m = sample_visible_normal(wo, alpha, u1, (F(j) + F(0.5)) / F(steps))
                    cos_om = wo[0] * m[0] + wo[2] * m[2]
                    wi_z = F(2.0) * cos_om * m[2] - wo[2]
                    reflected = F(1.0)
                    cos_t = F(0.0)
                    if kind != METAL:
                        reflected, cos_t = fresnel_dielectric(max(cos_om, F(0.0)), eta)
                    if wi_z > F(0.0):
                        total += reflected * smith_g2(wo[2], wi_z, alpha) / smith_g1(wo[2], alpha)
                    if kind == GLASS and reflected < F(1.0):
                        t_z = -wo[2] / eta + (cos_om / eta - cos_t) * m[2]
                        if t_z < F(0.0):
                            total += (F(1.0) - reflected) * smith_g2(wo[2], -t_z, alpha) / smith_g1(wo[2], alpha)
            table[side, c] = total / F(steps * steps)
            if side_count == 1:
                table[1, c] = table[0, c]


@helper
def albedo_at(materials, m, side, cos_v):
    """The albedo table of material m at a cosine, interpolated."""
    x = min(max(cos_v * F(COSINES) - F(0.5), F(0.0)), F(COSINES - 1.001))
    i = int(x)
    f = x - F(i)
    return materials.albedo[m, side, i] * (F(1.0) - f) + materials.albedo[m, side, i + 1] * f


@helper
def metal_reflectance(materials, m, cos_v):
    """Linear sRGB reflectance of the metal of material m at a cosine."""
    table = materials.tables
    k = materials.metal[m]
    last = table.shape[1] - 1
    x = min(max(cos_v, F(0.0)), F(1.0)) * F(last)
    i = min(int(x), last - 1)
    f = x - F(i)
    g = F(1.0) - f
    return (
        table[k, i, 0] * g + table[k, i + 1, 0] * f,
        table[k, i, 1] * g + table[k, i + 1, 1] * f,
        table[k, i, 2] * g + table[k, i + 1, 2] * f,
    )


@helper
def base_colour(materials, m):
    return (materials.params[m, RED], materials.params[m, GREEN], materials.params[m, BLUE])


@helper
def _metal_gain(materials, m, alpha, cos_o):
    """What scattering between facets adds, as a factor (Turquin 2019)."""
    if alpha != materials.params[m, ALPHA]:
        return (F(1.0), F(1.0), F(1.0))
    f0 = metal_reflectance(materials, m, F(1.0))
    e = albedo_at(materials, m, 0, cos_o)
    k = (F(1.0) - e) / max(e, F(1e-3))
    return (F(1.0) + f0[0] * k, F(1.0) + f0[1] * k, F(1.0) + f0[2] * k)


@helper
def _coat_share(materials, m, cos_o):
    """How often to sample a plastic's coat rather than its base."""
    coat = albedo_at(materials, m, 0, cos_o)
    base = (F(1.0) - coat) * luminance_of(base_colour(materials, m))
    return min(max(coat / max(coat + base, F(1e-6)), F(0.15)), F(0.85))


@helper
def evaluate(materials, m, wo, wi, alpha):
    """(f·|cos θi| (rgb), pdf of wi) for light from wi seen along wo; alpha may be raised over the material's own."""
    zero = (F(0.0), F(0.0), F(0.0))
    kind = materials.kind[m]
    if wo[2] <= F(0.0) or (wi[2] <= F(0.0) and kind != GLASS):
        return zero, F(0.0)
    if kind == MATTE:
        return scale(base_colour(materials, m), wi[2] / PI), wi[2] / PI
    if kind == GLASS:
        return zero, F(0.0)
    h = normalise(add(wo, wi))
    cos_oh = max(wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2], F(1e-6))
    d = ggx_d(h, alpha)
    lobe = d * smith_g2(wo[2], wi[2], alpha) / (F(4.0) * wo[2])
    pdf = visible_normal_pdf(wo, h, alpha) / (F(4.0) * cos_oh)
    if kind == METAL:
        r = metal_reflectance(materials, m, cos_oh)
        g = _metal_gain(materials, m, alpha, wo[2])
        return (lobe * r[0] * g[0], lobe * r[1] * g[1], lobe * r[2] * g[2]), pdf
    reflected, _ = fresnel_dielectric(cos_oh, F(COAT_INDEX))
    below = (F(1.0) - albedo_at(materials, m, 0, wo[2])) * (F(1.0) - albedo_at(materials, m, 0, wi[2]))
    below *= wi[2] / (PI * (F(1.0) - materials.params[m, COAT_MEAN]))
    base = base_colour(materials, m)
    coat = lobe * reflected
    share = _coat_share(materials, m, wo[2])
    return (
        (coat + below * base[0], coat + below * base[1], coat + below * base[2]),
        share * pdf + (F(1.0) - share) * wi[2] / PI,
    )


@helper
def cosine_sample(u1, u2):
    """A direction over z with density cos θ / π."""
    r = math.sqrt(u1)
    phi = F(2.0) * PI * u2
    return (r * math.cos(phi), r * math.sin(phi), math.sqrt(max(F(1.0) - u1, F(1e-7))))


@helper
def _mirror_about(wo, h):
    k = F(2.0) * (wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2])
    return (k * h[0] - wo[0], k * h[1] - wo[1], k * h[2] - wo[2])


@helper
def sample(materials, m, wo, alpha, u1, u2, u3):
    """Choose wi: (wi, weight = f·cos/pdf (rgb), pdf). pdf 0 means none; glass is drawn by `sample_glass`."""
    zero = (F(0.0), F(0.0), F(0.0))
    kind = materials.kind[m]
    if kind == MATTE:
        return cosine_sample(u1, u2), base_colour(materials, m), max(math.sqrt(F(1.0) - u1), F(1e-7)) / PI
    if kind == PLASTIC and u3 >= _coat_share(materials, m, wo[2]):
        wi = cosine_sample(u1, u2)
    else:
        wi = _mirror_about(wo, sample_visible_normal(wo, alpha, u1, u2))
    if wi[2] <= F(0.0):
        return wi, zero, F(0.0)
    f, pdf = evaluate(materials, m, wo, wi, alpha)
    if pdf <= F(0.0):
        return wi, zero, F(0.0)
    return wi, scale(f, F(1.0) / pdf), pdf


@helper
def sample_glass(materials, m, wo, entering, alpha, u1, u2, u3):
    """(wi, weight, transmitted): reflect or refract at a facet of glass in proportion to Fresnel's factor.

    wo.z > 0 on the side the light is seen from; a transmitted wi has z < 0. The weight is a scalar:
    masking over the table's albedo, so that rough glass neither gains nor loses.
    """
    eta = materials.params[m, INDEX]
    if not entering:
        eta = F(1.0) / eta
    rough = alpha > F(0.0)
    h = (F(0.0), F(0.0), F(1.0))
    if rough:
        h = sample_visible_normal(wo, alpha, u1, u2)
    cos_oh = max(wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2], F(1e-6))
    reflected, cos_t = fresnel_dielectric(cos_oh, eta)
    if u3 < reflected:
        wi = _mirror_about(wo, h)
        transmitted = False
        valid = wi[2] > F(0.0)
    else:
        k = cos_oh / eta - cos_t
        wi = (k * h[0] - wo[0] / eta, k * h[1] - wo[1] / eta, k * h[2] - wo[2] / eta)
        transmitted = True
        valid = wi[2] < F(0.0)
    if not valid:
        return wi, F(0.0), transmitted
    weight = F(1.0)
    if rough:
        weight = smith_g2(wo[2], abs(wi[2]), alpha) / smith_g1(wo[2], alpha)
        if alpha == materials.params[m, ALPHA]:
            weight /= max(albedo_at(materials, m, 0 if entering else 1, wo[2]), F(0.05))
    return wi, weight, transmitted


def linear_albedo(material: Metal | Plastic | Glass) -> NDArray[np.float64]:
    """A material's overall colour in linear sRGB (3,): what one would call its colour."""
    match material:
        case Metal():
            return metal_tables()[METALS.index(material.metal), -1].astype(float)
        case Plastic():
            return hex_to_linear(material.colour)
        case Glass():
            tint = hex_to_linear(material.tint)
            return tint / max(float(luminance(tint)), 1e-3)
