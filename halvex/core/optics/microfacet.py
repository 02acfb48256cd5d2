"""Microfacets: the GGX distribution, its visible normals and the exact Fresnel factor of dielectrics.

All directions are local to the shading frame, z along the normal; x runs with the brush of a brushed
surface, whose roughness (ax, ay) differs along and across it. Trowbridge-Reitz (GGX) after Walter et
al., EGSR 2007; height-correlated masking after Heitz, JCGT 3(2), 2014; sampling of visible normals
after Dupuy & Benyoub, CGF 42(8), 2023 (spherical caps).
"""

import math

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F, cosine_and_sine, normalise

PI = F(math.pi)


@helper
def fresnel_dielectric(cos_i, eta):
    """(reflectance, cosine of the refracted ray) for light on a smooth surface; eta = n_transmitted
    / n_incident.

    cos_i >= 0. Total reflection gives (1, 0).
    """
    sin2_t = (F(1.0) - cos_i * cos_i) / (eta * eta)
    if sin2_t >= F(1.0):
        return F(1.0), F(0.0)
    cos_t = math.sqrt(F(1.0) - sin2_t)
    rs = (cos_i - eta * cos_t) / (cos_i + eta * cos_t)
    rp = (eta * cos_i - cos_t) / (eta * cos_i + cos_t)
    return F(0.5) * (rs * rs + rp * rp), cos_t


@helper
def ggx_d(m, ax, ay):
    """Distribution of normals D(m), m in the upper hemisphere."""
    x, y = m[0] / ax, m[1] / ay
    # 1 - z² loses all digits near the pole, where a polished surface has its whole peak.
    k = x * x + y * y + m[2] * m[2]
    return F(1.0) / (PI * ax * ay * k * k)


@helper
def smith_lambda(v, ax, ay):
    x, y = ax * v[0], ay * v[1]
    return F(0.5) * (math.sqrt(F(1.0) + (x * x + y * y) / max(v[2] * v[2], F(1e-12))) - F(1.0))


@helper
def smith_g1(v, ax, ay):
    return F(1.0) / (F(1.0) + smith_lambda(v, ax, ay))


@helper
def smith_g2(wo, wi, ax, ay):
    """Height-correlated masking and shadowing for reflection."""
    return F(1.0) / (F(1.0) + smith_lambda(wo, ax, ay) + smith_lambda(wi, ax, ay))


@helper
def sample_visible_normal(wo, ax, ay, u1, u2):
    """A microfacet normal seen from wo (wo.z > 0); its density is D(m) G1(wo) max(0, wo·m) / wo.z."""
    v = normalise((wo[0] * ax, wo[1] * ay, wo[2]))
    c, s = cosine_and_sine(u1)
    z = (F(1.0) - u2) * (F(1.0) + v[2]) - v[2]
    r = math.sqrt(min(max(F(1.0) - z * z, F(0.0)), F(1.0)))
    h = (r * c + v[0], r * s + v[1], z + v[2])
    return normalise((h[0] * ax, h[1] * ay, max(h[2], F(1e-7))))


@helper
def visible_normal_pdf(wo, m, ax, ay):
    cos_om = max(wo[0] * m[0] + wo[1] * m[1] + wo[2] * m[2], F(0.0))
    return ggx_d(m, ax, ay) * smith_g1(wo, ax, ay) * cos_om / max(wo[2], F(1e-6))
