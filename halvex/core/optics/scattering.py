"""How a surface scatters light: evaluated for two directions, and sampled.

Directions wo, wi are local, z along the shading normal, x along the brush; glass also uses z < 0.
`base` is the colour at the point (textures are looked up before) as `tinted_base` and `seen_base` make it,
`pearl` that of its flake, `alpha` the roughness, which the caller may raise over the material's own.
"""

import math

from halvex.core.kernels import helper, routine
from halvex.core.optics.albedo import ANGLES_AROUND, COSINES
from halvex.core.optics.material import (
    ALPHA,
    ASPECT,
    COAT_BLUE,
    COAT_GREEN,
    COAT_MEAN,
    COAT_RED,
    CORE,
    FLAKE_ALPHA,
    GLASS,
    INDEX,
    MATTE,
    METAL,
    NO_METAL,
    PEARL,
    PEARL_BLUE,
    PEARL_GREEN,
    PEARL_RED,
    PLASTIC,
    THIN,
)
from halvex.core.optics.microfacet import (
    PI,
    fresnel_dielectric,
    ggx_d,
    sample_visible_normal,
    smith_g1,
    smith_g2,
    smith_lambda,
    visible_normal_pdf,
)
from halvex.core.optics.vectors import F, add, cosine_and_sine, luminance_of, mul, normalise, scale

_HALF_PI = F(0.5 * math.pi)


@helper
def albedo_at(materials, m, side, v):
    """The albedo table of material m for light along v (local), interpolated."""
    x = min(max(v[2] * F(COSINES) - F(0.5), F(0.0)), F(COSINES - 1.001))
    i = int(x)
    f = x - F(i)
    table = materials.albedo
    if materials.params[m, ASPECT] == F(1.0):
        return table[m, side, 0, i] * (F(1.0) - f) + table[m, side, 0, i + 1] * f
    y = math.atan2(abs(v[1]), abs(v[0])) / _HALF_PI * F(ANGLES_AROUND - 1)
    j = min(int(y), ANGLES_AROUND - 2)
    g = y - F(j)
    near = table[m, side, j, i] * (F(1.0) - f) + table[m, side, j, i + 1] * f
    return near + g * (table[m, side, j + 1, i] * (F(1.0) - f) + table[m, side, j + 1, i + 1] * f - near)


@helper
def metal_reflectance(materials, m, cos_v):
    """Linear sRGB reflectance of the metal of material m at a cosine, untinted."""
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
def roughness_along(materials, m, alpha):
    """(ax, ay): roughness along and across the brush."""
    aspect = materials.params[m, ASPECT]
    return alpha * aspect, alpha / aspect


@helper
def top_roughness(materials, m, alpha):
    """The same of what lies on top: of a metal, or of a coat, which is not brushed."""
    if materials.kind[m] == METAL:
        return roughness_along(materials, m, alpha)
    return alpha, alpha


@helper
def flake_roughness(materials, m, alpha):
    """(ax, ay): roughness along and across the brush of what shimmers under a coat: of flake its own, of a
    metal no less than that of the coat, alpha."""
    own = materials.params[m, FLAKE_ALPHA]
    return roughness_along(materials, m, own if materials.metal[m] == NO_METAL else max(own, alpha))


@helper
def pearl_of(materials, m):
    """The colour (rgb) of the flake in material m, the mean of it where it differs from place to place."""
    p = materials.params
    return p[m, PEARL_RED], p[m, PEARL_GREEN], p[m, PEARL_BLUE]


@helper
def flake_colour(materials, m, base, pearl, wo, cosine):
    """Colour (rgb) of what shimmers under a coat at a cosine to its facets: flake, or a metal. The coat turns
    back some of what a metal mirrors, which mirrors it again."""
    if materials.metal[m] == NO_METAL:
        return mul(pearl, coat_tint(materials, m, wo))
    r, coat = metal_reflectance(materials, m, cosine), albedo_at(materials, m, 0, wo)
    return _to_and_fro(r, base, coat)


@routine
def _to_and_fro(r, base, coat):
    r, k = mul(r, base), F(1.0) - coat
    return (
        r[0] * k / (F(1.0) - r[0] * coat),
        r[1] * k / (F(1.0) - r[1] * coat),
        r[2] * k / (F(1.0) - r[2] * coat),
    )


@helper
def coat_tint(materials, m, wo):
    """Share (rgb) of light that is left on its way in and out through a tinted coat, both as long as the way
    along wo is."""
    p = materials.params
    if p[m, COAT_RED] + p[m, COAT_GREEN] + p[m, COAT_BLUE] <= F(0.0):
        return F(1.0), F(1.0), F(1.0)
    return _left_of_tint(p, m, wo[2])


# Rare, and compiled once: most of what scatters light is compiled into every place that asks for it.
@routine
def _left_of_tint(params, m, cosine):
    index = params[m, INDEX]
    way = F(1.0) / math.sqrt(F(1.0) - (F(1.0) - min(cosine * cosine, F(1.0))) / (index * index))
    return (
        math.exp(-params[m, COAT_RED] * way),
        math.exp(-params[m, COAT_GREEN] * way),
        math.exp(-params[m, COAT_BLUE] * way),
    )


@helper
def tinted_base(materials, m, base, wo):
    """The base (rgb) as it shows along wo through the coat over it, if it has one."""
    return mul(base, coat_tint(materials, m, wo)) if materials.kind[m] == PLASTIC else base


@helper
def seen_base(materials, m, base, wo, alpha):
    """The base as it counts along wo, for `evaluate` and `sample`: a metal's grows by what
    scattering between its facets adds (Turquin 2019)."""
    if materials.kind[m] != METAL or alpha != materials.params[m, ALPHA]:
        return base
    f0 = metal_reflectance(materials, m, F(1.0))
    e = albedo_at(materials, m, 0, wo)
    k = (F(1.0) - e) / max(e, F(1e-3))
    return (base[0] + base[0] * f0[0] * k, base[1] + base[1] * f0[1] * k, base[2] + base[2] * f0[2] * k)


# Of a surface that is asked for its light alone.
NO_SAMPLES = (F(0.0), F(0.0), F(0.0))
# Of a surface without flake, or one whose flake is not known yet.
NO_PEARL = (F(0.0), F(0.0), F(0.0))


@helper
def lobe_shares(materials, m, base, pearl, wo, each):
    """How many samples a plastic's coat, its pearl flake and its base get: (coat, pearl, base), one in all;
    or `each` one for the coat and one for what lies under it."""
    flake = materials.params[m, PEARL]
    if each:
        return F(1.0), flake, F(1.0) - flake
    coat = albedo_at(materials, m, 0, wo)
    below = (F(1.0) - flake) * luminance_of(base)
    if flake > F(0.0):
        below += flake * luminance_of(flake_colour(materials, m, base, pearl, wo, F(1.0)))
    below *= F(1.0) - coat
    share = min(max(coat / max(coat + below, F(1e-6)), F(0.15)), F(0.85))
    return share, (F(1.0) - share) * flake, (F(1.0) - share) * (F(1.0) - flake)


@helper
def matte_part(materials, m, base, wo, wi):
    """f·|cos θi| (rgb) of what scatters evenly: the base of plastics, all of matte surfaces,
    nothing of metal."""
    kind = materials.kind[m]
    if wo[2] <= F(0.0) or wi[2] <= F(0.0) or (kind != MATTE and kind != PLASTIC):
        return F(0.0), F(0.0), F(0.0)
    return scale(matte_leaving(materials, m, base, wo), matte_entering(materials, m, wi) * wi[2])


@helper
def matte_entering(materials, m, wi):
    """Share of light from wi that the coat, if there is one, lets in to what scatters evenly."""
    return F(1.0) - albedo_at(materials, m, 0, wi) if materials.kind[m] == PLASTIC else F(1.0)


@helper
def matte_leaving(materials, m, base, wo):
    """Radiance (rgb) along wo of what scatters evenly, for a flux of 1 per area that enters it."""
    if materials.kind[m] != PLASTIC:
        return scale(base, F(1.0) / PI)
    through = (F(1.0) - materials.params[m, PEARL]) * (F(1.0) - albedo_at(materials, m, 0, wo))
    return scale(base, through / (PI * (F(1.0) - materials.params[m, COAT_MEAN])))


@helper
def evaluate(materials, m, base, pearl, wo, wi, alpha, shares):
    """(f·|cos θi| (rgb), density of samples at wi) for light from wi seen along wo; alpha may be raised over
    the material's own; shares: how many samples lobes get (`lobe_shares`)."""
    mirrored, matte, pdf = evaluate_parts(materials, m, base, pearl, wo, wi, alpha, shares)
    return add(mirrored, matte), pdf


@helper
def evaluate_parts(materials, m, base, pearl, wo, wi, alpha, shares):
    """`evaluate` with f in two: what is mirrored, and what scatters evenly (`matte_part`)."""
    zero = (F(0.0), F(0.0), F(0.0))
    kind = materials.kind[m]
    if wo[2] <= F(0.0) or wi[2] <= F(0.0) or kind >= GLASS:
        return zero, zero, F(0.0)
    if kind == MATTE:
        return zero, scale(base, wi[2] / PI), wi[2] / PI
    ax, ay = top_roughness(materials, m, alpha)
    h = normalise(add(wo, wi))
    cos_oh = max(wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2], F(1e-6))
    lobe = ggx_d(h, ax, ay) * smith_g2(wo, wi, ax, ay) / (F(4.0) * wo[2])
    pdf = visible_normal_pdf(wo, h, ax, ay) / (F(4.0) * cos_oh)
    if kind == METAL:
        r = metal_reflectance(materials, m, cos_oh)
        return (lobe * r[0] * base[0], lobe * r[1] * base[1], lobe * r[2] * base[2]), zero, pdf
    reflected, _ = fresnel_dielectric(cos_oh, materials.params[m, INDEX])
    coat = lobe * reflected
    below = matte_part(materials, m, base, wo, wi)
    total = shares[0] * pdf + shares[2] * wi[2] / PI
    f = (coat, coat, coat)
    flake = materials.params[m, PEARL]
    if flake > F(0.0):
        # The flake's lobe shares out what the coat lets in; side 1 of the table is its own albedo.
        ax, ay = flake_roughness(materials, m, alpha)
        shimmer = flake * ggx_d(h, ax, ay) * smith_g2(wo, wi, ax, ay) / (F(4.0) * wo[2])
        shimmer *= (F(1.0) - albedo_at(materials, m, 0, wo)) / max(albedo_at(materials, m, 1, wo), F(1e-3))
        f = add(f, scale(flake_colour(materials, m, base, pearl, wo, cos_oh), shimmer))
        total += shares[1] * visible_normal_pdf(wo, h, ax, ay) / (F(4.0) * cos_oh)
    return f, below, total


@helper
def cosine_sample(u1, u2):
    """A direction over z with density cos θ / π."""
    r = math.sqrt(u1)
    c, s = cosine_and_sine(u2)
    return (r * c, r * s, math.sqrt(max(F(1.0) - u1, F(1e-7))))


@helper
def _mirror_about(wo, h):
    k = F(2.0) * (wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2])
    return (k * h[0] - wo[0], k * h[1] - wo[1], k * h[2] - wo[2])


@helper
def _sample_metal(materials, m, base, wo, ax, ay, u1, u2):
    """`sample` for a metal, where all but masking and colour cancels from the weight."""
    h = sample_visible_normal(wo, ax, ay, u1, u2)
    wi = _mirror_about(wo, h)
    if wi[2] <= F(0.0):
        return wi, (F(0.0), F(0.0), F(0.0)), F(0.0)
    masked = F(1.0) + smith_lambda(wo, ax, ay)
    passed = masked / (masked + smith_lambda(wi, ax, ay))
    r = metal_reflectance(materials, m, wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2])
    weight = (passed * r[0] * base[0], passed * r[1] * base[1], passed * r[2] * base[2])
    return wi, weight, ggx_d(h, ax, ay) / (F(4.0) * masked * wo[2])


@helper
def sample(materials, m, base, pearl, wo, alpha, shares, u):
    """Choose wi: (wi, weight = f·cos/pdf (rgb), pdf), the lobe by the third of three numbers `u`,
    in 0 to the sum of `shares`. pdf 0 means none; glass is drawn by `sample_glass`."""
    u1, u2, u3 = u
    zero = (F(0.0), F(0.0), F(0.0))
    kind = materials.kind[m]
    if kind == MATTE:
        return cosine_sample(u1, u2), base, max(math.sqrt(F(1.0) - u1), F(1e-7)) / PI
    ax, ay = top_roughness(materials, m, alpha)
    if kind == METAL:
        return _sample_metal(materials, m, base, wo, ax, ay, u1, u2)
    matte = False
    if u3 >= shares[0]:
        matte = u3 >= shares[0] + shares[1]
        ax, ay = flake_roughness(materials, m, alpha)
    wi = cosine_sample(u1, u2) if matte else _mirror_about(wo, sample_visible_normal(wo, ax, ay, u1, u2))
    if wi[2] <= F(0.0):
        return wi, zero, F(0.0)
    f, pdf = evaluate(materials, m, base, pearl, wo, wi, alpha, shares)
    if pdf <= F(0.0):
        return wi, zero, F(0.0)
    return wi, scale(f, F(1.0) / pdf), pdf


@helper
def shining(materials, m, cosine):
    """How bright a glow is from a direction at this cosine to its normal, as a multiple of what it would be
    if it shone evenly; it sends out the same in all.

    The light of a gas discharge is densest on the tube's axis (Schottky's profile, close to 1 - r²): along a
    line of sight that makes about the cube of the cosine, two fifths of the even light in all.
    """
    core, c = materials.params[m, CORE], max(cosine, F(0.0))
    return (F(1.0) - core + core * c * c * c) / (F(1.0) - F(0.6) * core)


@helper
def thin_pane(reflected):
    """Share of light that a pane returns, its two faces and all light between them together: 2R/(1 + R)."""
    return F(2.0) * reflected / (F(1.0) + reflected)


@helper
def sample_glass(materials, m, index, wo, entering, alpha, u):
    """(wi, weight, transmitted, reflected): reflect or refract at a facet of glass in proportion to Fresnel's
    factor, which is `reflected`: the third of three numbers `u` below it reflects.

    wo.z > 0 on the side the light is seen from; a transmitted wi has z < 0. `index` is that of the
    path's wavelength. The weight is a scalar: masking over the table's albedo, so that rough glass
    neither gains nor loses. A thin pane lets light through straight.
    """
    u1, u2, u3 = u
    thin = materials.params[m, THIN] > F(0.0)
    eta = index if entering or thin else F(1.0) / index
    rough = alpha > F(0.0)
    h = (F(0.0), F(0.0), F(1.0))
    if rough:
        h = sample_visible_normal(wo, alpha, alpha, u1, u2)
    cos_oh = max(wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2], F(1e-6))
    reflected, cos_t = fresnel_dielectric(cos_oh, eta)
    if thin:
        reflected = thin_pane(reflected)
    if u3 < reflected:
        wi = _mirror_about(wo, h)
        transmitted = False
        valid = wi[2] > F(0.0)
    elif thin:
        # The facet's mirror image carried to the far side: straight for a polished pane, spread
        # about that by a rough one.
        up = _mirror_about(wo, h)
        wi = (up[0], up[1], -up[2])
        transmitted = True
        valid = wi[2] < F(0.0)
    else:
        k = cos_oh / eta - cos_t
        wi = (k * h[0] - wo[0] / eta, k * h[1] - wo[1] / eta, k * h[2] - wo[2] / eta)
        transmitted = True
        valid = wi[2] < F(0.0)
    if not valid:
        return wi, F(0.0), transmitted, reflected
    weight = F(1.0)
    if rough:
        weight = smith_g2(wo, wi, alpha, alpha) / smith_g1(wo, alpha, alpha)
        if alpha == materials.params[m, ALPHA]:
            weight /= max(albedo_at(materials, m, 0 if entering else 1, wo), F(0.05))
    return wi, weight, transmitted, reflected
