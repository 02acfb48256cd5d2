"""One's own typefaces: font files that are checked and unpacked before anything is set in them.

TrueType and OpenType, bare, as WOFF or WOFF2, or several in a collection. A file is data: HarfBuzz
shapes and draws it, hinting programs are never run. What a font says it may be embedded in is reported,
not enforced: a picture of letters embeds no font.
"""

import io
import math
import struct
from dataclasses import dataclass

import uharfbuzz as hb
from fontTools.ttLib import TTCollection, TTFont

from halvex.core.lettering.flattening import MOST_POINTS
from halvex.core.lettering.typefaces import FontFile, LetteringError

LARGEST_FILE_BYTES = 40_000_000
LARGEST_UNPACKED_BYTES = 120_000_000
MOST_FONTS = 64
# What is tried before a font is kept: all its characters, so many at a time, and all its glyphs.
MOST_CHARACTERS, SHAPED_AT_ONCE = 100_000, 64
# No letter's points, and no line, lie farther out.
FARTHEST_EM = 100.0

_PLAIN = (b"\x00\x01\x00\x00", b"OTTO", b"true")
# What OS/2 fsType says, in the order in which one bit outweighs another (OpenType 1.9, OS/2 table).
_EMBEDDING = ((0x0002, "restricted licence"), (0x0004, "preview and print"), (0x0008, "editable"))


@dataclass(frozen=True)
class OwnFace:
    """A font that can be kept: its full name, what it may be embedded in, and its bare bytes."""

    name: str
    embedding: str
    data: bytes


def read_fonts(data: bytes) -> list[OwnFace]:
    """The fonts of a file, shaped and drawn in full. Raises LetteringError for what is no font, too
    large, or cannot be used."""
    if len(data) > LARGEST_FILE_BYTES:
        raise _refused(f"the file is over {LARGEST_FILE_BYTES // 10**6} MB; take a smaller one")
    if data[:4] not in (*_PLAIN, b"wOFF", b"wOF2", b"ttcf"):
        raise _refused("this is no font; take a .ttf, .otf, .woff, .woff2 or .ttc file")
    if data[:4] in (b"wOFF", b"wOF2"):
        # The size that the file says it unpacks to stands in its header.
        unpacked = struct.unpack(">I", data[16:20])[0] if len(data) >= 20 else 0
        if unpacked > LARGEST_UNPACKED_BYTES:
            raise _refused(
                f"the font would unpack to over {LARGEST_UNPACKED_BYTES // 10**6} MB; take a smaller one"
            )
    try:
        if data[:4] == b"ttcf":
            fonts = TTCollection(io.BytesIO(data)).fonts
            if len(fonts) > MOST_FONTS:
                raise _refused(f"the collection holds {len(fonts)} fonts, over {MOST_FONTS}; take them apart")
            return [_checked(font) for font in fonts]
        return [_checked(TTFont(io.BytesIO(data), recalcTimestamp=False))]
    except LetteringError:
        raise
    except Exception as fault:  # fontTools raises many kinds on a broken file
        raise _refused(f"the font cannot be read ({type(fault).__name__}); take another file") from fault


def _checked(font: TTFont) -> OwnFace:
    missing = [table for table in ("cmap", "head", "hhea", "hmtx", "maxp", "name") if table not in font]
    if missing:
        raise _refused(f"the font has no {', '.join(missing)}; take another file")
    if not any(table in font for table in ("glyf", "CFF ", "CFF2")):
        raise _refused("the font has no outlines, only pictures of letters; take an outline font")
    if not font.getBestCmap():
        raise _refused("the font has no letters by their Unicode numbers; take another file")
    font.flavor = None
    out = io.BytesIO()
    font.save(out, reorderTables=False)
    if out.tell() > LARGEST_UNPACKED_BYTES:
        raise _refused(f"the font unpacks to over {LARGEST_UNPACKED_BYTES // 10**6} MB; take a smaller one")
    name = font["name"].getBestFullName() or font["name"].getBestFamilyName() or "own typeface"
    bits = font["OS/2"].fsType if "OS/2" in font else 0
    _prove(FontFile(out.getvalue(), name))
    embedding = next((said for bit, said in _EMBEDDING if bits & bit), "installable")
    return OwnFace(" ".join(name.split())[:60], embedding, out.getvalue())


def _prove(file: FontFile) -> None:
    """Shape all characters of a font and draw all its glyphs. Raises LetteringError where any of it
    cannot be used."""
    characters = sorted(file.coverage)
    if len(characters) > MOST_CHARACTERS:
        raise _refused(f"the font has over {MOST_CHARACTERS} characters; take a subset of it")
    font, far = file.font({}), FARTHEST_EM * file.upem
    if not all(
        math.isfinite(value) and abs(value) <= FARTHEST_EM for value in file.metrics.__dict__.values()
    ):
        raise _refused("the font's lines are of no height that words can be set at; take another file")
    for first in range(0, len(characters), SHAPED_AT_ONCE):
        buffer = hb.Buffer()
        buffer.add_codepoints(
            [c for c in characters[first : first + SHAPED_AT_ONCE] if not 0xD800 <= c <= 0xDFFF]
        )
        buffer.guess_segment_properties()
        hb.shape(font, buffer, {})
        if any(max(abs(p.x_advance), abs(p.x_offset), abs(p.y_offset)) > far for p in buffer.glyph_positions):
            raise _refused("the font sets letters out of all bounds; take another file")
    tally = _Tally(far)
    for gid in range(file.face.glyph_count):
        tally.drawn = 0
        font.draw_glyph(gid, tally.functions, None)
        if tally.astray or tally.drawn > MOST_POINTS:
            raise _refused(f"the font's glyph {gid} is too intricate or out of all bounds; take another file")


class _Tally:
    """Counts the pieces of a drawn glyph, and whether one lies farther out than `far` font units."""

    def __init__(self, far: float):
        self.drawn, self.astray, self._far = 0, False, far
        self.functions = hb.DrawFuncs()
        self.functions.set_move_to_func(self._take)
        self.functions.set_line_to_func(self._take)
        self.functions.set_quadratic_to_func(self._take)
        self.functions.set_cubic_to_func(self._take)

    def _take(self, *given: float | None) -> None:
        self.drawn += 1
        self.astray = self.astray or any(place is not None and not abs(place) <= self._far for place in given)


def _refused(remedy: str) -> LetteringError:
    return LetteringError("typeface", remedy)
