"""Typefaces opened: what HarfBuzz needs of their files.

A typeface is one or more font files, one per script subset, in order of preference: each character
is set from the first file that has it.
"""

import io
from dataclasses import dataclass

import uharfbuzz as hb
from fontTools.ttLib import TTFont

from halvex.core.assets import Asset, Assets, Typeface
from halvex.core.memory import kept

# OpenType 1.9, head table.
LEAST_UPEM, MOST_UPEM = 16, 16_384


class LetteringError(ValueError):
    """Words that cannot be set; `field` is the name of the lettering's field at fault."""

    def __init__(self, field: str, remedy: str):
        super().__init__(remedy)
        self.field = field
        self.remedy = remedy


@dataclass(frozen=True)
class Axis:
    """A variable axis in the font's own units."""

    tag: str
    name: str
    minimum: float
    default: float
    maximum: float


@dataclass(frozen=True)
class Metrics:
    """Vertical metrics in em, up positive (descender is negative)."""

    ascender: float
    descender: float
    line_gap: float


class FontFile:
    """One font file: the HarfBuzz face, its coverage and its metrics; `key` names it for caches.

    Raises LetteringError where the file is no usable font.
    """

    def __init__(self, data: bytes, key: str):
        try:
            with TTFont(io.BytesIO(data), lazy=True) as font:
                self.axes = tuple(
                    Axis(
                        a.axisTag,
                        font["name"].getDebugName(a.axisNameID) or a.axisTag,
                        a.minValue,
                        a.defaultValue,
                        a.maxValue,
                    )
                    for a in (font["fvar"].axes if "fvar" in font else [])
                )
                self.coverage = frozenset(font.getBestCmap() or {})
                self.features = _features(font)
                hhea, upem = font["hhea"], font["head"].unitsPerEm
            self.blob = hb.Blob(data)
            self.face = hb.Face(self.blob)
        except Exception as fault:  # fontTools raises many kinds on a broken file
            raise LetteringError(
                "typeface", f"{key} is not a font Halvex can read ({type(fault).__name__}); take another file"
            ) from fault
        if not LEAST_UPEM <= upem <= MOST_UPEM:
            raise LetteringError(
                "typeface",
                f"{key} has {upem} units per em, and OpenType {LEAST_UPEM} to {MOST_UPEM}; take another file",
            )
        self.key = key
        self.nbytes = len(data) + 50 * len(self.coverage)
        self.upem = int(upem)
        self.metrics = Metrics(hhea.ascent / upem, hhea.descent / upem, hhea.lineGap / upem)

    def glyph(self, character: str) -> int:
        """The glyph id of a character, 0 (missing) where the font has none."""
        return int(hb.Font(self.face).get_nominal_glyph(ord(character)) or 0)

    def has_ink(self, gid: int) -> bool:
        """Whether a glyph shows anything."""
        extents = hb.Font(self.face).get_glyph_extents(gid)
        return extents is not None and extents.width != 0 and extents.height != 0

    def font(self, axes: dict[str, float]) -> hb.Font:
        """A HarfBuzz font in font units at these axis positions (clamped to each axis' range)."""
        font = hb.Font(self.face)
        known = {axis.tag: axis for axis in self.axes}
        settings = {
            tag: min(max(value, known[tag].minimum), known[tag].maximum)
            for tag, value in axes.items()
            if tag in known
        }
        if settings:
            font.set_variations(settings)
        return font


def _features(font: TTFont) -> dict[str, str]:
    """Tags of the font's OpenType features, and what the font itself calls them; empty where it
    says nothing."""
    found: dict[str, str] = {}
    for table in ("GPOS", "GSUB"):
        if table in font and font[table].table.FeatureList is not None:
            for record in font[table].table.FeatureList.FeatureRecord:
                params = getattr(record.Feature, "FeatureParams", None)
                number = getattr(params, "UINameID", None) or getattr(params, "FeatUILabelNameID", None)
                found.setdefault(
                    record.FeatureTag, (font["name"].getDebugName(number) or "") if number else ""
                )
    return found


def typeface_of(typeface_id: str, assets: Assets) -> Typeface:
    """A typeface by its id. Raises LetteringError for an unknown one."""
    typeface = assets.typefaces.get(typeface_id)
    if typeface is None:
        raise LetteringError(
            "typeface", f"there is no typeface “{typeface_id}”; there are {', '.join(assets.typefaces)}"
        )
    return typeface


@kept
def opened(typeface: Typeface) -> tuple[FontFile, ...]:
    """The files of a typeface, opened. Raises LetteringError."""
    return tuple(_opened(file) for file in typeface.files)


def _opened(file: Asset) -> FontFile:
    try:
        data = file.read()
    except OSError as fault:
        raise LetteringError(
            "typeface",
            f"the file {file.name} cannot be read ({fault.strerror}); bring the typeface again, or take "
            "another",
        ) from None
    return FontFile(data, file.name)
