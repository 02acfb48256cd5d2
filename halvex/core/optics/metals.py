"""Metals from their measured indices: reflectance over angle, as the eye sees it under D65.

The Fresnel equations are evaluated per wavelength and only then reduced to linear sRGB, so that a
polished metal has its true colour face on and turns white at grazing angles as it should.
"""

import json
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.colour import SPECTRA, spectral_data, spectrum_to_linear

ANGLES = 65
METALS = (
    "gold",
    "silver",
    "copper",
    "brass",
    "bronze",
    "aluminium",
    "chromium",
    "nickel",
    "steel",
    "iron",
    "tungsten",
    "titanium",
)


def fresnel_conductor(
    cos_theta: NDArray[np.float64], n: NDArray[np.float64], k: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Unpolarised reflectance of a conductor n + ik in air; arguments broadcast.

    Exact Fresnel equations (Hecht, Optics, ch. 4).
    """
    eta = n + 1j * k
    cos_t = np.sqrt(1.0 - (1.0 - cos_theta**2) / eta**2)
    rs = (cos_theta - eta * cos_t) / (cos_theta + eta * cos_t)
    rp = (eta * cos_theta - cos_t) / (eta * cos_theta + cos_t)
    return 0.5 * (np.abs(rs) ** 2 + np.abs(rp) ** 2)


def reflectance_table(n: NDArray[np.float64], k: NDArray[np.float64]) -> NDArray[np.float32]:
    """Linear sRGB reflectance (ANGLES, 3) at equal steps of cos θ from 0 to 1, for n and k per wavelength."""
    data = spectral_data()
    light = np.asarray(data["d65"])
    cos_theta = np.linspace(0.0, 1.0, ANGLES)[:, None]
    reflected = fresnel_conductor(cos_theta, n[None], k[None]) * light
    white = float(light @ np.asarray(data["y"]))
    return (spectrum_to_linear(reflected) / white).astype(np.float32)


@lru_cache(maxsize=1)
def metal_tables() -> NDArray[np.float32]:
    """Reflectance (metals, ANGLES, 3) in the order of METALS."""
    metals = json.loads(SPECTRA.read_text())["metals"]
    return np.stack(
        [reflectance_table(np.array(metals[name]["n"]), np.array(metals[name]["k"])) for name in METALS]
    )
