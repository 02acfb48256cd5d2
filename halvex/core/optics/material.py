"""Materials, packed for the kernels: a row of numbers each, and a table of how much light a lobe returns.

The kinds here are those of light transport. The document's materials come down to them: stone and
wood are a coat over a textured base, plaster and matt paint are matte.

The albedo tables say how much of the light a rough surface returns after one bounce. Metals divide
by it so that no energy is lost between facets (Turquin 2019); coats give what they do not return to
the base below, so a white plastic returns everything.
"""

from functools import cache, lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.albedo import ANGLES_AROUND, COSINES, albedo_table, mean_albedo
from halvex.core.optics.colour import hex_to_linear, luminance
from halvex.core.optics.metals import METALS, metal_tables
from halvex.core.optics.sources import (
    ABSORBED,
    AMOUNT,
    AS_IT_IS,
    BEARING,
    EMBOSSED,
    MAIN,
    MOST_ROWS,
    RELIEF,
    ROUGHNESS,
    SECOND,
    SHINING,
    SHOWN,
    UNDER_COAT,
    VARIES,
    Look,
    Source,
    Sources,
    is_tilting,
    layers_in,
    mean_colour,
    mean_number,
    pack_sources,
)
from halvex.core.optics.spectrum import cauchy
from halvex.core.optics.texels import NO_PICTURES, Means, Pictures, Texels
from halvex.core.optics.textures import NO_TEXTURE, TEXTURE_COLUMNS, texture_row
from halvex.core.optics.tone import CURVES, Curve, light_that_shows
from halvex.core.piece.coat import Coat
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
from halvex.core.piece.varying import Varied

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
FLAKE_ALPHA = 16  # of what shimmers under a coat: flake, or the metal itself
COAT_RED, COAT_GREEN, COAT_BLUE = 17, 18, 19  # optical depth of a tinted coat, straight in and out
FIRST_TEXTURE = 20  # the texture's columns, see textures.py
COLUMNS = FIRST_TEXTURE + TEXTURE_COLUMNS

COAT_INDEX = 1.5
# Roughness of the flake of pearl plastics.
PEARL_ALPHA = 0.36
# Below this the facets are flat enough to be a mirror for glass; metals keep a tiny lobe instead.
SMOOTHEST_ALPHA = 1e-3
SMOOTH_GLASS_ALPHA = 4e-3
# How many materials stand for one whose roughness differs from place to place.
LEVELS = 24
# Material of no metal.
NO_METAL = -1
# Strongest drawing-out of a brushed reflection: roughness along the brush is a tenth of that across.
BRUSHED_MOST = 0.9
FINISH_ROUGHNESS = {"satin": 0.5, "gloss": 0.12}


class Materials(NamedTuple):
    """Packed materials: kind (M,), params (M, COLUMNS), metal (M,) or NO_METAL, texture (M,); plain (M,):
    they have no texture, layers or pearl; evenness (M,); albedo (M, 2, ANGLES_AROUND, COSINES); sources of
    their colours and numbers; texels of the pictures in them; tables (metals, angles, 3).

    After those that were asked for come their levels of roughness (sources.levels)."""

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
    metal: int = NO_METAL
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
    slots = [sources_of(material) for material in materials]
    levels: dict[int, tuple[int, int]] = {}
    rough = list(materials)
    for number, material in enumerate(materials):
        roughness = slots[number].get(ROUGHNESS)
        if isinstance(roughness, Varied):
            levels[number] = len(rough), LEVELS
            for value in np.linspace(roughness.dark, roughness.light, LEVELS):
                rough.append(material.model_copy(update={"roughness": float(value)}))
    slots += [{}] * (len(rough) - len(materials))
    rows = [_pack(material, curve, pictures.means) for material in rough]
    params = np.zeros((len(rows), COLUMNS), np.float32)
    params[:, [ALPHA, INDEX, ASPECT, BRUSH_X]] = 1.0
    for number, row in enumerate(rows):
        for column, value in row.numbers.items():
            params[number, column] = value
        params[number, FIRST_TEXTURE : FIRST_TEXTURE + len(row.texture[1])] = row.texture[1]
    texture = np.array([row.texture[0] for row in rows], np.int32)
    sources = pack_sources(slots, [row.look for row in rows], pictures.means.numbers, levels)
    kind = np.array([row.kind for row in rows], np.int32)
    smooth = texture == NO_TEXTURE
    even = smooth & (sources.first[:, :, 1] == 0).all(axis=1)
    tilting = np.array([is_tilting(own.get(MAIN, "")) for own in slots])
    metal = np.array([row.metal for row in rows], np.int32)
    coated_metal = (kind == PLASTIC) & (metal != NO_METAL)
    tinted = params[:, COAT_RED : COAT_BLUE + 1].any(axis=1)
    recoloured = smooth & (kind < GLASS) & ~tilting & ~coated_metal & ~tinted & (sources.rows[:, VARIES] == 0)
    return Materials(
        kind,
        params,
        metal,
        texture,
        (even & ((params[:, PEARL] == 0) | coated_metal)).astype(np.uint8),
        np.select([even, recoloured], [EVEN, RECOLOURED], UNEVEN).astype(np.uint8),
        np.stack([row.albedo for row in rows]).astype(np.float32),
        sources,
        pictures.texels,
        metal_tables() if tables is None else tables,
    )


@lru_cache(maxsize=MOST_ROWS)
def _pack(material: AnyMaterial | InnerLayer, curve: Curve, means: Means) -> _Row:
    """A material's row; nobody changes one that is given."""
    mean = mean_colour(source_of(material), means)
    match material:
        case Metal():
            row = _metal(material, mean, means)
            return _coated_metal(row, material.coat) if material.coat else row
        case Plastic():
            return _plastic(material, mean, means)
        case Glass():
            return _glass(material, mean, means)
        case Paint(coat=None, finish="matt"):
            return _matte(mean)
        case Paint():
            return _coated(mean, material.coat or _gloss(FINISH_ROUGHNESS[material.finish]))
        case Plaster() | InnerLayer():
            coat = material.coat if isinstance(material, Plaster) else None
            row = _coated(mean, coat) if coat else _matte(mean)
            return row._replace(texture=texture_row(material, mean_colour))
        case Stone() | Wood():
            row = _coated(mean, material.coat or _gloss(mean_number(material.roughness, means)))

            def second(colour: str | Layered) -> NDArray[np.float64]:
                return _under_coat(mean_colour(colour, means), row.look.by)

            return row._replace(texture=texture_row(material, second))
        case Glow():
            by = 2.0 ** mean_number(material.strength, means)
            radiance = _rgb(mean * by)
            numbers = {**radiance, CORE: material.core / 100}
            return _Row(GLOW, numbers, _all_returned(), look=Look(SHINING, by))
        case Flat():
            light = light_that_shows(mean, curve)
            return _Row(FLAT, _rgb(light), _all_returned(), look=Look(SHOWN, CURVES[curve]))


# The fields of materials that layers can make, besides their main colour.
_FIELDS = {
    "second": SECOND,
    "pearl_colour": SECOND,
    "roughness": ROUGHNESS,
    "relief": RELIEF,
    "brush_bearing": BEARING,
    "tint_depth": AMOUNT,
    "strength": AMOUNT,
    "embossing": EMBOSSED,
}


@cache
def _fields_of(kind: type[AnyMaterial | InnerLayer]) -> tuple[tuple[str, int], ...]:
    """Those of them that a kind of material has, and their slots: to ask a model for one that it lacks takes
    longer than all else here."""
    return tuple((name, slot) for name, slot in _FIELDS.items() if name in kind.model_fields)


def sources_of(material: AnyMaterial | InnerLayer) -> dict[int, Source]:
    """By slot what makes a material's main colour, and whatever else of it has layers."""
    found: dict[int, Source] = {MAIN: source_of(material)}
    for name, slot in _fields_of(type(material)):
        value = getattr(material, name)
        if value is not None and layers_in(value) and not _is_hidden(material, name):
            found[slot] = value
    return found


def _is_hidden(material: AnyMaterial | InnerLayer, name: str) -> bool:
    """Whether a field of a material says nothing as things are: under a coat only a metal keeps a gloss of
    its own, and a pearl colour needs pearl."""
    match name:
        case "roughness":
            return not isinstance(material, Metal) and getattr(material, "coat", None) is not None
        case "pearl_colour":
            return isinstance(material, Plastic) and material.pearl == 0
    return False


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


def _metal(material: Metal, tint: NDArray[np.float64], means: Means) -> _Row:
    alpha = _alpha(mean_number(material.roughness, means))
    aspect = (1 - BRUSHED_MOST * material.brushed / 100) ** 0.5
    bearing = np.radians(mean_number(material.brush_bearing, means))
    # A brush whose bearing differs from place to place comes with the surface.
    fixed = BEARING not in sources_of(material)
    numbers = _rgb(tint) | {
        ALPHA: alpha,
        FLAKE_ALPHA: alpha,
        ASPECT: aspect,
        BRUSH_X: float(np.cos(bearing)) if fixed else 0.0,
        BRUSH_Y: float(np.sin(bearing)) if fixed else 0.0,
    }
    return _Row(METAL, numbers, albedo_table("metal", alpha, 1.0, aspect), METALS.index(material.metal))


def _alpha(roughness: float) -> float:
    return max(roughness**2, SMOOTHEST_ALPHA)


def _gloss(roughness: float) -> Coat:
    """The coat that a gloss of one's own comes from."""
    return Coat(index=COAT_INDEX, roughness=roughness)


def _internal_return(index: float) -> float:
    """The share of diffuse light inside a coat that is turned back at its surface: 1 - (1 - F̄)/n², the
    internal diffuse reflectance of Egan & Hilgeman; 0.596 at an index of 1.5, where F̄ = 0.0918."""
    smooth = albedo_table("coat", SMOOTHEST_ALPHA, index, 1.0)
    return 1 - (1 - mean_albedo(smooth[0, 0])) / index**2


def _under_coat(base: NDArray[np.float64], turned_back: float) -> NDArray[np.float64]:
    """What a base must be for its colour to show through a coat: light that the coat turns back
    meets it again, so deep colours grow deeper."""
    return base * (1 - turned_back) / (1 - base * turned_back)


def _coat_numbers(coat: Coat, table: NDArray[np.float64]) -> dict[int, float]:
    depth = -np.log(np.maximum(hex_to_linear(coat.tint), 1e-4)) * coat.thickness / 100
    return {
        ALPHA: _alpha(coat.roughness),
        INDEX: coat.index,
        COAT_MEAN: mean_albedo(table[0, 0]),
        COAT_RED: depth[0],
        COAT_GREEN: depth[1],
        COAT_BLUE: depth[2],
    }


def _coat_table(coat: Coat) -> NDArray[np.float64]:
    return albedo_table("coat", _alpha(coat.roughness), coat.index, 1.0).copy()


def _coated(colour: NDArray[np.float64], coat: Coat) -> _Row:
    table, turned_back = _coat_table(coat), _internal_return(coat.index)
    numbers = _rgb(_under_coat(colour, turned_back)) | _coat_numbers(coat, table)
    return _Row(PLASTIC, numbers, table, look=Look(UNDER_COAT, turned_back))


def _plastic(material: Plastic, colour: NDArray[np.float64], means: Means) -> _Row:
    row = _coated(colour, material.coat or _gloss(mean_number(material.roughness, means)))
    pearl = mean_colour(material.pearl_colour, means)
    row.numbers.update(
        {
            PEARL: material.pearl / 100,
            PEARL_RED: pearl[0],
            PEARL_GREEN: pearl[1],
            PEARL_BLUE: pearl[2],
            FLAKE_ALPHA: PEARL_ALPHA,
        }
    )
    # A coat has no inside: the second side of its table holds the flake's lobe.
    row.albedo[1] = albedo_table("metal", PEARL_ALPHA, 1.0, 1.0)[0]
    return row


def _coated_metal(metal: _Row, coat: Coat) -> _Row:
    """A metal under a coat: all of what is below it is flake, as rough as the metal and as bright."""
    table = _coat_table(coat)
    # Through a rough coat nothing looks smooth.
    alpha = max(metal.numbers[ALPHA], _alpha(coat.roughness))
    table[1] = albedo_table("metal", alpha, 1.0, metal.numbers[ASPECT])[0]
    numbers = metal.numbers | _coat_numbers(coat, table) | {PEARL: 1.0, FLAKE_ALPHA: alpha}
    return _Row(PLASTIC, numbers, table, metal.metal)


def _glass(material: Glass, tint: NDArray[np.float64], means: Means) -> _Row:
    alpha = mean_number(material.roughness, means) ** 2
    smooth = alpha < SMOOTH_GLASS_ALPHA
    transmitted = np.maximum(tint, 1e-4)
    # A thin wall tints once; a body tints by the length of the path in it.
    depth = 1.0 if material.thin else mean_number(material.tint_depth, means)
    table = (
        _all_returned()
        if smooth
        else albedo_table("metal" if material.thin else "glass", alpha, material.index, 1.0)
    )
    numbers = _rgb(-np.log(transmitted) / depth) | {
        ALPHA: 0.0 if smooth else alpha,
        INDEX: material.index,
        THIN: float(material.thin),
    }
    if material.abbe and not material.thin:
        numbers[CAUCHY] = cauchy(material.index, material.abbe)
    return _Row(GLASS, numbers, table, look=Look(ABSORBED, depth))


def linear_albedo(material: AnyMaterial | InnerLayer) -> NDArray[np.float64]:
    """A material's overall colour in linear sRGB (3,): what one would call its colour."""
    match material:
        case Metal():
            return metal_tables()[METALS.index(material.metal), -1].astype(float) * mean_colour(material.tint)
        case Glass():
            tint = mean_colour(material.tint)
            return tint / max(float(luminance(tint)), 1e-3)
        case _:
            return mean_colour(material.colour)
