"""How much light one bounce off a rough surface returns, by angle: the tables that keep energy."""

import math
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.microfacet import fresnel_dielectric, sample_visible_normal, smith_g1, smith_g2
from halvex.core.optics.vectors import F

COSINES = 32
ANGLES_AROUND = 4  # directions around the normal, from along the brush to across it
_STEPS = 48

Lobe = Literal["metal", "coat", "glass"]
_LOBES = ("metal", "coat", "glass")


@lru_cache(maxsize=512)
def albedo_table(lobe: Lobe, alpha: float, index: float, aspect: float) -> NDArray[np.float64]:
    """Directional albedo (2, ANGLES_AROUND, COSINES) of one bounce; side 1 is from the inside, for glass.

    `aspect` is the square root of the roughness along the brush over that across it.
    """
    table = np.empty((2, ANGLES_AROUND, COSINES), np.float32)
    _integrate(_LOBES.index(lobe), F(alpha * aspect), F(alpha / aspect), F(index), table)
    return table.astype(float)


def mean_albedo(row: NDArray[np.float64]) -> float:
    """Albedo under light from everywhere (COSINES,), weighted by the cosine."""
    cosines = (np.arange(COSINES) + 0.5) / COSINES
    return float((row * cosines).sum() / cosines.sum())


@kernel
def _integrate(lobe, ax, ay, index, table):
    sides = 2 if lobe == 2 else 1
    around = table.shape[1] if ax != ay else 1
    for side in range(sides):
        eta = index if side == 0 else F(1.0) / index
        for a in range(around):
            phi = F(0.5 * math.pi) * F(a) / F(table.shape[1] - 1)
            for c in range(table.shape[2]):
                cos_o = (F(c) + F(0.5)) / F(table.shape[2])
                sin_o = math.sqrt(F(1.0) - cos_o * cos_o)
                table[side, a, c] = _returned(
                    lobe, ax, ay, eta, (sin_o * math.cos(phi), sin_o * math.sin(phi), cos_o)
                )
    for side in range(2):
        for a in range(table.shape[1]):
            for c in range(table.shape[2]):
                table[side, a, c] = table[min(side, sides - 1), min(a, around - 1), c]


@helper
def _returned(lobe, ax, ay, eta, wo):
    """Share of the light along wo that leaves after one bounce."""
    total = F(0.0)
    for i in range(_STEPS):
        for j in range(_STEPS):
            # A lattice with shifted rows covers the square evenly without lining up.
            u1 = (F(i) + (F(j) * F(0.61803399)) % F(1.0)) / F(_STEPS)
            m = sample_visible_normal(wo, ax, ay, u1, (F(j) + F(0.5)) / F(_STEPS))
            cos_om = max(wo[0] * m[0] + wo[1] * m[1] + wo[2] * m[2], F(0.0))
            k = F(2.0) * cos_om
            wi = (k * m[0] - wo[0], k * m[1] - wo[1], k * m[2] - wo[2])
            reflected = F(1.0)
            cos_t = F(0.0)
            if lobe != 0:
                reflected, cos_t = fresnel_dielectric(cos_om, eta)
            if wi[2] > F(0.0):
                total += reflected * smith_g2(wo, wi, ax, ay) / smith_g1(wo, ax, ay)
            if lobe == 2 and reflected < F(1.0):
                b = cos_om / eta - cos_t
                wt = (b * m[0] - wo[0] / eta, b * m[1] - wo[1] / eta, b * m[2] - wo[2] / eta)
                if wt[2] < F(0.0):
                    total += (F(1.0) - reflected) * smith_g2(wo, wt, ax, ay) / smith_g1(wo, ax, ay)
    return total / F(_STEPS * _STEPS)
