"""Microfacets: the GGX distribution, its visible normals and the exact Fresnel factor of dielectrics.

All directions are local to the shading frame, z along the normal. Trowbridge-Reitz (GGX) after
Walter et al., EGSR 2007; height-correlated masking after Heitz, JCGT 3(2), 2014; sampling of visible
normals after Dupuy & Benyoub, CGF 42(8), 2023 (spherical caps).
"""

import math

from halvex.core.optics.vectors import F, helper, normalise

PI = F(math.pi)


@helper
def fresnel_dielectric(cos_i, eta):
    """(reflectance, cosine of the refracted ray) for light on a smooth surface; eta = n_transmitted / n_incident.

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
def ggx_d(m, alpha):
    """Distribution of normals D(m), m in the upper hemisphere."""
    a2 = alpha * alpha
    # 1 - z² loses all digits near the pole, where a polished surface has its whole peak.
    k = m[0] * m[0] + m[1] * m[1] + m[2] * m[2] * a2
    return a2 / (PI * k * k)


@helper
def smith_lambda(cos_v, alpha):
    c2 = max(cos_v * cos_v, F(1e-12))
    return F(0.5) * (math.sqrt(F(1.0) + alpha * alpha * (F(1.0) - c2) / c2) - F(1.0))


@helper
def smith_g1(cos_v, alpha):
    return F(1.0) / (F(1.0) + smith_lambda(cos_v, alpha))


@helper
def smith_g2(cos_o, cos_i, alpha):
    """Height-correlated masking and shadowing for reflection."""
    return F(1.0) / (F(1.0) + smith_lambda(cos_o, alpha) + smith_lambda(cos_i, alpha))


@helper
def sample_visible_normal(wo, alpha, u1, u2):
    """A microfacet normal seen from wo (wo.z > 0); its density is D(m) G1(wo) max(0, wo·m) / wo.z."""
    v = normalise((wo[0] * alpha, wo[1] * alpha, wo[2]))
    phi = F(2.0) * PI * u1
    z = (F(1.0) - u2) * (F(1.0) + v[2]) - v[2]
    r = math.sqrt(min(max(F(1.0) - z * z, F(0.0)), F(1.0)))
    h = (r * math.cos(phi) + v[0], r * math.sin(phi) + v[1], z + v[2])
    return normalise((h[0] * alpha, h[1] * alpha, max(h[2], F(1e-7))))


@helper
def visible_normal_pdf(wo, m, alpha):
    cos_om = max(wo[0] * m[0] + wo[1] * m[1] + wo[2] * m[2], F(0.0))
    return ggx_d(m, alpha) * smith_g1(wo[2], alpha) * cos_om / max(wo[2], F(1e-6))
