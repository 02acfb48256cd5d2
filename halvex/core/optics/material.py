"""Materials, packed for the kernels: a row of numbers each, and a table of how much light a lobe returns.

The kinds here are those of light transport. The document's materials come down to them: stone and
wood are a coat over a textured base, plaster and matt paint are matte.

The albedo tables say how much of the light a rough surface returns after one bounce. Metals divide
by it so that no energy is lost between facets (Turquin 2019); coats give what they do not return to
the base below, so a white plastic returns everything.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.albedo import ANGLES_AROUND, COSINES, albedo_table, mean_albedo
from halvex.core.optics.colour import hex_to_linear, luminance
from halvex.core.optics.metals import METALS, metal_tables
from halvex.core.optics.sources import (
    AS_IT_IS,
    SHINING,
    SHOWN,
    UNDER_COAT,
    Look,
    Sources,
    is_tilting,
    mean_colour,
    pack_sources,
)
from halvex.core.optics.spectrum import cauchy
from halvex.core.optics.texels import NO_PICTURES, Pictures, Texels
from halvex.core.optics.textures import NO_TEXTURE, texture_row
from halvex.core.optics.tone import CURVES, Curve, light_that_shows
from halvex.core.piece.material import (
    AnyMaterial,
    Flat,
    Glass,
    Glow,
    InnerLayer,
    Metal,
    Paint,
    Plaster,
    Plastic,
    Stone,
    Wood,
)
from halvex.core.piece.source import Layered

MATTE, METAL, PLASTIC, GLASS, GLOW, FLAT = range(6)
# How even a material is: each point by itself, the same throughout, or the same but for its colour.
UNEVEN, EVEN, RECOLOURED = range(3)

# Columns of a material's parameters.
RED, GREEN, BLUE = 0, 1, 2  # base colour; a metal's tint; absorption per px of glass; radiance of a glow
ALPHA = 3
INDEX = 4
COAT_MEAN = 5  # mean albedo of a coat
ASPECT = 6  # roughness along the brush over that across it, square root; 1 where nothing is brushed
BRUSH_X, BRUSH_Y = 7, 8  # brush direction in the face plane
PEARL, PEARL_RED, PEARL_GREEN, PEARL_BLUE = 9, 10, 11, 12
CAUCHY = 13  # dispersion: index(λ) = INDEX + CAUCHY (1/λ² - 1/λ_d²), λ in µm
THIN = 14
CORE = 15  # of a glow, how much of its light it sends out from its middle
FIRST_TEXTURE = 16  # the texture's columns, see textures.py
COLUMNS = 27

COAT_INDEX = 1.5
# Roughness of the flake of pearl plastics.
PEARL_ALPHA = 0.36
# Below this the facets are flat enough to be a mirror for glass; metals keep a tiny lobe instead.
SMOOTHEST_ALPHA = 1e-3
SMOOTH_GLASS_ALPHA = 4e-3
# Diffuse light inside a coat of index 1.5 is turned back at its surface by this share
# (1 - (1 - F̄)/n², F̄ = 0.0918; the internal diffuse reflectance of Egan & Hilgeman).
INTERNAL_RETURN = 0.596
# Strongest drawing-out of a brushed reflection: roughness along the brush is a tenth of that across.
BRUSHED_MOST = 0.9
FINISH_ROUGHNESS = {"satin": 0.5, "gloss": 0.12}


class Materials(NamedTuple):
    """Packed materials: kind (M,), params (M, COLUMNS), metal (M,), texture (M,); plain (M,): they have
    neither a texture nor layers; evenness (M,); albedo (M, 2, ANGLES_AROUND, COSINES); sources of their
    colours; texels of the pictures in them; tables (metals, angles, 3)."""

    kind: np.ndarray
    params: np.ndarray
    metal: np.ndarray
    texture: np.ndarray
    plain: np.ndarray
    evenness: np.ndarray
    albedo: np.ndarray
    sources: Sources
    texels: Texels
    tables: np.ndarray


class _Row(NamedTuple):
    kind: int
    numbers: dict[int, float]
    albedo: NDArray[np.float64]
    metal: int = 0
    texture: tuple[int, list[float]] = (NO_TEXTURE, [])
    look: Look = Look(AS_IT_IS)


def pack_materials(
    materials: list[AnyMaterial | InnerLayer],
    curve: Curve = "neutral",
    *,
    tables: NDArray[np.float32] | None = None,
    pictures: Pictures = NO_PICTURES,
) -> Materials:
    """Pack materials in order. `tables` replaces the metals' reflectances. Flat colours are packed for
    exposure 0 and a tone curve."""
    rows = [_pack(material, curve, pictures) for material in materials]
    params = np.zeros((len(rows), COLUMNS), np.float32)
    params[:, [ALPHA, INDEX, ASPECT, BRUSH_X]] = 1.0
    for number, row in enumerate(rows):
        for column, value in row.numbers.items():
            params[number, column] = value
        params[number, FIRST_TEXTURE : FIRST_TEXTURE + len(row.texture[1])] = row.texture[1]
    texture = np.array([row.texture[0] for row in rows], np.int32)
    colours = [source_of(material) for material in materials]
    sources = pack_sources(colours, [row.look for row in rows], pictures.names)
    kind = np.array([row.kind for row in rows], np.int32)
    smooth = texture == NO_TEXTURE
    plain = smooth & (sources.first[:, 1] == 0)
    recoloured = smooth & (kind < GLASS) & ~np.array([is_tilting(colour) for colour in colours])
    return Materials(
        kind,
        params,
        np.array([row.metal for row in rows], np.int32),
        texture,
        plain.astype(np.uint8),
        np.select([plain, recoloured], [EVEN, RECOLOURED], UNEVEN).astype(np.uint8),
        np.stack([row.albedo for row in rows]).astype(np.float32),
        sources,
        pictures.texels,
        metal_tables() if tables is None else tables,
    )


def _pack(material: AnyMaterial | InnerLayer, curve: Curve, pictures: Pictures) -> _Row:
    mean = mean_colour(source_of(material), pictures)
    match material:
        case Metal():
            return _metal(material, mean)
        case Plastic():
            row = _coated(mean, material.roughness)
            pearl = hex_to_linear(material.pearl_colour)
            row.numbers.update(
                {
                    PEARL: material.pearl / 100,
                    PEARL_RED: pearl[0],
                    PEARL_GREEN: pearl[1],
                    PEARL_BLUE: pearl[2],
                }
            )
            # A coat has no inside: the second side of its table holds the flake's lobe.
            row.albedo[1] = albedo_table("metal", PEARL_ALPHA, 1.0, 1.0)[0]
            return row
        case Glass():
            return _glass(material)
        case Paint() if material.finish == "matt":
            return _matte(mean)
        case Paint():
            return _coated(mean, FINISH_ROUGHNESS[material.finish])
        case Plaster() | InnerLayer():
            return _matte(mean)._replace(texture=texture_row(material, mean_colour))
        case Stone() | Wood():
            row = _coated(mean, material.roughness)
            return row._replace(texture=texture_row(material, _second_under_coat))
        case Glow():
            by = 2.0**material.strength
            radiance = _rgb(mean * by)
            numbers = {**radiance, CORE: material.core / 100}
            return _Row(GLOW, numbers, _all_returned(), look=Look(SHINING, by))
        case Flat():
            light = light_that_shows(mean, curve)
            return _Row(FLAT, _rgb(light), _all_returned(), look=Look(SHOWN, CURVES[curve]))


def source_of(material: AnyMaterial | InnerLayer) -> str | Layered:
    """A material's main colour as it is in the document."""
    return material.tint if isinstance(material, Metal | Glass) else material.colour


def _all_returned() -> NDArray[np.float64]:
    """The table of a surface that loses nothing between facets."""
    return np.ones((2, ANGLES_AROUND, COSINES))


def _rgb(colour: NDArray[np.float64]) -> dict[int, float]:
    return {RED: float(colour[0]), GREEN: float(colour[1]), BLUE: float(colour[2])}


def _matte(colour: NDArray[np.float64]) -> _Row:
    return _Row(MATTE, _rgb(colour), _all_returned())


def _metal(material: Metal, tint: NDArray[np.float64]) -> _Row:
    alpha = max(material.roughness**2, SMOOTHEST_ALPHA)
    aspect = (1 - BRUSHED_MOST * material.brushed / 100) ** 0.5
    bearing = np.radians(material.brush_bearing)
    numbers = _rgb(tint) | {
        ALPHA: alpha,
        ASPECT: aspect,
        BRUSH_X: float(np.cos(bearing)),
        BRUSH_Y: float(np.sin(bearing)),
    }
    return _Row(METAL, numbers, albedo_table("metal", alpha, 1.0, aspect), METALS.index(material.metal))


def _under_coat(base: NDArray[np.float64]) -> NDArray[np.float64]:
    """What a base must be for its colour to show through a coat: light that the coat turns back
    meets it again, so deep colours grow deeper."""
    return base * (1 - INTERNAL_RETURN) / (1 - base * INTERNAL_RETURN)


def _second_under_coat(colour: str | Layered) -> NDArray[np.float64]:
    return _under_coat(mean_colour(colour))


def _coated(colour: NDArray[np.float64], roughness: float) -> _Row:
    alpha = max(roughness**2, SMOOTHEST_ALPHA)
    table = albedo_table("coat", alpha, COAT_INDEX, 1.0).copy()
    return _Row(
        PLASTIC,
        _rgb(_under_coat(colour)) | {ALPHA: alpha, INDEX: COAT_INDEX, COAT_MEAN: mean_albedo(table[0, 0])},
        table,
        look=Look(UNDER_COAT),
    )


def _glass(material: Glass) -> _Row:
    alpha = material.roughness**2
    smooth = alpha < SMOOTH_GLASS_ALPHA
    transmitted = np.maximum(hex_to_linear(material.tint), 1e-4)
    # A thin wall tints once; a body tints by the length of the path in it.
    absorption = -np.log(transmitted) / (1.0 if material.thin else material.tint_depth)
    table = (
        _all_returned()
        if smooth
        else albedo_table("metal" if material.thin else "glass", alpha, material.index, 1.0)
    )
    numbers = _rgb(absorption) | {
        ALPHA: 0.0 if smooth else alpha,
        INDEX: material.index,
        THIN: float(material.thin),
    }
    if material.abbe and not material.thin:
        numbers[CAUCHY] = cauchy(material.index, material.abbe)
    return _Row(GLASS, numbers, table)


def linear_albedo(material: AnyMaterial | InnerLayer) -> NDArray[np.float64]:
    """A material's overall colour in linear sRGB (3,): what one would call its colour."""
    match material:
        case Metal():
            return metal_tables()[METALS.index(material.metal), -1].astype(float) * mean_colour(material.tint)
        case Glass():
            tint = hex_to_linear(material.tint)
            return tint / max(float(luminance(tint)), 1e-3)
        case _:
            return mean_colour(material.colour)
