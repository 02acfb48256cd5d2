"""One's own typefaces: what is taken, what is refused, and that bytes come out as they were drawn."""

import io
import struct
import unittest

from fontTools.ttLib import TTCollection, TTFont

from halvex.core.assets import SHIPPED_TYPEFACES
from halvex.core.lettering.own_typefaces import read_fonts
from halvex.core.lettering.typefaces import LetteringError

PLAIN = SHIPPED_TYPEFACES / "anton" / "latin.ttf"
OTHER = SHIPPED_TYPEFACES / "lobster" / "latin.ttf"


def packed(flavor: str | None) -> bytes:
    font = TTFont(PLAIN)
    font.flavor = flavor
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()


class OwnTypefaceTest(unittest.TestCase):
    def test_every_packing_gives_the_same_outlines(self) -> None:
        """The glyph tables after unpacking against those of the bare file, by fontTools."""
        bare = TTFont(PLAIN)
        for flavor in (None, "woff", "woff2"):
            with self.subTest(flavor=flavor):
                (face,) = read_fonts(packed(flavor))
                font = TTFont(io.BytesIO(face.data))
                self.assertIsNone(font.flavor)
                self.assertEqual((face.name, face.embedding), ("Anton", "installable"))
                for name in ("R", "ampersand"):
                    mine, theirs = (f["glyf"][name].getCoordinates(f["glyf"])[0] for f in (font, bare))
                    self.assertEqual(list(mine), list(theirs))

    def test_a_collection_gives_all_its_fonts(self) -> None:
        collection = TTCollection()
        collection.fonts = [TTFont(PLAIN), TTFont(OTHER)]
        out = io.BytesIO()
        collection.save(out)
        self.assertEqual([face.name for face in read_fonts(out.getvalue())], ["Anton", "Lobster"])

    def test_embedding_bits_are_shown(self) -> None:
        """FsType of the OpenType specification's OS/2 table."""
        for bits, said in (
            (0, "installable"),
            (2, "restricted licence"),
            (4, "preview and print"),
            (8, "editable"),
            (0x104, "preview and print"),
        ):
            font, out = TTFont(PLAIN), io.BytesIO()
            font["OS/2"].fsType = bits
            font.save(out)
            self.assertEqual(read_fonts(out.getvalue())[0].embedding, said)

    def test_what_is_no_font_is_refused_with_a_remedy(self) -> None:
        whole = PLAIN.read_bytes()
        without, out = TTFont(PLAIN), io.BytesIO()
        del without["glyf"], without["loca"]
        without.save(out)
        bomb = bytearray(packed("woff2"))
        bomb[16:20] = struct.pack(">I", 2**31)
        for data, said in (
            (b"", "no font"),
            (b"<svg/>", "no font"),
            (whole[:2000], "cannot be read"),
            (b"\x00\x01\x00\x00" + bytes(5000), "has no"),
            (packed("woff")[:300], "cannot be read"),
            (out.getvalue(), "no outlines"),
            (bytes(bomb), "unpack"),
            (b"OTTO" + bytes(40_000_001), "over 40 MB"),
        ):
            with self.subTest(said=said, start=data[:8]), self.assertRaises(LetteringError) as caught:
                read_fonts(data)
            self.assertIn(said, caught.exception.remedy)
            self.assertEqual(caught.exception.field, "typeface")
