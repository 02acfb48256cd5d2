"""Colour: sRGB to linear light and back, lamps by temperature, luminance and contrast.

Linear values are in the primaries of sRGB (IEC 61966-2-1), white at D65.
"""

import json
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]

SPECTRA = Path(__file__).parent / "spectra.json"
LUMINANCE_WEIGHTS = np.array([0.2126, 0.7152, 0.0722])
# XYZ to linear sRGB, IEC 61966-2-1.
XYZ_TO_SRGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
# Planck's law: second radiation constant hc/k, CODATA 2018.
SECOND_RADIATION_CONSTANT_NM_K = 1.438776877e7


def srgb_to_linear(encoded: ArrayLike) -> Array:
    """Linear light of sRGB values in [0, 1]; any shape. IEC 61966-2-1."""
    v = np.asarray(encoded, float)
    return np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0.04045) + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(linear: ArrayLike) -> Array:
    """SRGB values of linear light in [0, 1]; any shape. IEC 61966-2-1.

    >>> float(linear_to_srgb(1.0))
    1.0
    """
    v = np.asarray(linear, float)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.maximum(v, 0.0031308) ** (1 / 2.4) - 0.055)


# Linear light of the 256 values that a byte encodes.
LINEAR_OF_BYTES = srgb_to_linear(np.arange(256) / 255)


def hex_to_linear(colour: str) -> Array:
    """Linear sRGB (3,) of a colour written #rrggbb."""
    return np.asarray(LINEAR_OF_BYTES[list(bytes.fromhex(colour[1:7]))])


def luminance(linear: ArrayLike) -> Array:
    """Relative luminance of linear sRGB of shape (..., 3)."""
    return np.asarray(linear, float) @ LUMINANCE_WEIGHTS


def contrast_ratio(one: str, other: str) -> float:
    """Contrast of two #rrggbb colours, 1 to 21, by WCAG 2.2."""
    a, b = sorted((float(luminance(hex_to_linear(c))) for c in (one, other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


@lru_cache(maxsize=1)
def spectral_data() -> dict[str, Array]:
    """The 1931 2° observer x, y, z and D65 at the same wavelengths in nm (spectra.json names the sources)."""
    raw = json.loads(SPECTRA.read_text())
    return {name: np.array(raw[name], float) for name in ("wavelength_nm", "x", "y", "z", "d65")}


def spectrum_to_linear(power: Array) -> Array:
    """Linear sRGB (..., 3) of spectra (..., wavelengths) seen by the 1931 2° observer, unscaled."""
    data = spectral_data()
    observer = np.stack([data["x"], data["y"], data["z"]])
    return (power @ observer.T) @ XYZ_TO_SRGB.T


@lru_cache(maxsize=256)
def black_body(kelvin: float) -> Array:
    """Linear sRGB (3,) of a black body's light, scaled to luminance 1 (Planck's law).

    Values outside the sRGB gamut are moved to its edge.
    """
    wavelength = np.asarray(spectral_data()["wavelength_nm"])
    power = wavelength**-5.0 / np.expm1(SECOND_RADIATION_CONSTANT_NM_K / (wavelength * kelvin))
    rgb = np.maximum(spectrum_to_linear(power / power.max()), 0.0)
    rgb /= luminance(rgb)
    rgb.flags.writeable = False  # it is kept
    return rgb
