"""Dispersion: an index that changes with wavelength, and the colour that one wavelength carries.

A path that meets dispersive glass picks one wavelength and keeps it. `wavelength_weight` is what the
path then counts for in linear sRGB; over all wavelengths it averages to white.
"""

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper
from halvex.core.optics.colour import spectral_data, spectrum_to_linear
from halvex.core.optics.vectors import F

# Wavelengths that matter to the eye; outside, sRGB sees less than a percent.
SHORTEST_NM, LONGEST_NM = 420.0, 680.0
# Fraunhofer's lines d, F and C in µm, by which Abbe's number is defined: V = (n_d - 1)/(n_F - n_C).
D_LINE, F_LINE, C_LINE = 0.5876, 0.4861, 0.6563
_STEPS = 64


def cauchy(index: float, abbe: float) -> float:
    """B in µm² of Cauchy's n(λ) = A + B/λ², for an index at the d line and an Abbe number.

    >>> round(cauchy(1.5168, 64.17), 5)
    0.00421
    """
    return (index - 1) / abbe / (F_LINE**-2 - C_LINE**-2)


def _weights() -> NDArray[np.float32]:
    """Linear sRGB (_STEPS, 3) of equal steps of wavelength, mean 1. Hues outside the gamut are
    moved to its edge."""
    data = spectral_data()
    wavelength = np.linspace(SHORTEST_NM, LONGEST_NM, _STEPS)
    lines = np.maximum(
        1 - np.abs(np.asarray(data["wavelength_nm"])[None] - wavelength[:, None]) / 5.0, 0.0
    ) * np.asarray(data["d65"])
    rgb = np.maximum(spectrum_to_linear(lines), 0.0)
    return (rgb / rgb.mean(axis=0)).astype(np.float32)


_WEIGHTS = _weights()


@helper
def wavelength_weight(u):
    """Linear sRGB of the wavelength at u in [0, 1) of the range."""
    i = min(int(u * F(_STEPS)), _STEPS - 1)
    return (_WEIGHTS[i, 0], _WEIGHTS[i, 1], _WEIGHTS[i, 2])


@helper
def dispersed(index, b, u):
    """Index at the wavelength at u in [0, 1) of the range; b from `cauchy`, index at the d line."""
    um = F(SHORTEST_NM * 1e-3) + F((LONGEST_NM - SHORTEST_NM) * 1e-3) * u
    return index + b * (F(1.0) / (um * um) - F(1.0 / D_LINE**2))
