"""Pictures on surfaces: files against Pillow's reading of them, footprints against means, what is refused,
and pieces as one file."""

import io
import struct
import tempfile
import unittest
import zipfile
import zlib
from pathlib import Path
from unittest.mock import patch

import numpy as np
import OpenEXR
import png
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps

from halvex.core import memory
from halvex.core.assets import SHIPPED, Assets
from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.kernels import kernel
from halvex.core.optics.colour import linear_to_srgb, srgb_to_linear
from halvex.core.optics.texels import (
    CLEAR,
    HELD,
    MIRRORED,
    TILED,
    Pictures,
    Pyramid,
    levels_of,
    light_of,
    mean_texel,
    pyramid_of_eight,
    pyramid_of_light,
    texel_colour,
)
from halvex.core.output.bundle import read_bundle, write_bundle
from halvex.core.piece.model import to_json
from halvex.core.piece.reading import PieceError, piece_from_values
from halvex.core.piece.source import pictures_in
from halvex.core.scene import SceneError
from halvex.core.scene.picture import missing_pictures, open_picture, read_picture
from halvex.core.scene.scene import scene_of
from halvex.core.scene.travelling import scene_from_bytes, scene_to_bytes
from tests.core.small_scenes import piece_of

F = np.float32
# Less than full, as the tone curve of a piece shows no full colours.
RED = (190, 20, 20)


@kernel
def look_up(texels, places, width, edges, found):
    for n in range(len(places)):
        colour = texel_colour(texels, 0, places[n, 0], places[n, 1], width, edges)
        for c in range(4):
            found[n, c] = colour[c]


def looked_up(pyramid: Pyramid, places: object, width: float, edges: int = HELD) -> NDArray[np.float32]:
    """Colours (n, 4) of a picture at places (n, 2) in its px."""
    at = np.array(places, np.float32)
    found = np.zeros((len(at), 4), np.float32)
    look_up(Pictures.of({"it": pyramid}).texels, at, F(width), edges, found)
    return found


def noise(height: int = 40, width: int = 60, channels: int = 3) -> NDArray[np.uint8]:
    return np.random.default_rng(2).integers(0, 256, (height, width, channels), np.uint8)


def file_of(image: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def shown(pyramid: Pyramid) -> NDArray[np.float64]:
    """The largest level (h, w, 4), its colours encoded and no longer premultiplied, 0 to 255."""
    light = light_of(pyramid, levels_of(pyramid)[0])
    straight = light[..., :3] / np.maximum(light[..., 3:], 1e-6)
    return np.dstack([linear_to_srgb(straight) * 255, light[..., 3] * 255])


def swapped_profile() -> bytes:
    """An ICC profile, version 2, of sRGB's primaries with red and green exchanged and a gamma of 1.8."""
    primaries = ((0.3851, 0.7169, 0.0971), (0.4361, 0.2225, 0.0139), (0.1431, 0.0606, 0.7141))

    def fixed(value: float) -> bytes:
        return struct.pack(">i", round(value * 65536))

    def xyz(values: tuple[float, ...]) -> bytes:
        return b"XYZ \0\0\0\0" + b"".join(fixed(value) for value in values)

    curve = b"curv\0\0\0\0" + struct.pack(">IH", 1, round(1.8 * 256)) + b"\0\0"
    text = b"desc\0\0\0\0" + struct.pack(">I", 8) + b"swapped\0" + bytes(79) + b"\0"
    tags = {
        b"desc": text,
        b"cprt": b"text\0\0\0\0none\0\0\0\0",
        b"wtpt": xyz((0.9642, 1.0, 0.8249)),
        **{name: xyz(values) for name, values in zip((b"rXYZ", b"gXYZ", b"bXYZ"), primaries, strict=True)},
        **dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve),
    }
    table, body = b"", b""
    begin = 128 + 4 + 12 * len(tags)
    for name, data in tags.items():
        padded = data + bytes(-len(data) % 4)
        table += name + struct.pack(">II", begin + len(body), len(data))
        body += padded
    size = begin + len(body)
    head = struct.pack(">I4sI4s4s4s", size, b"\0\0\0\0", 0x02100000, b"mntr", b"RGB ", b"XYZ ")
    head += bytes(12) + b"acsp" + bytes(28) + fixed(0.9642) + fixed(1.0) + fixed(0.8249)
    return head + bytes(128 - len(head)) + struct.pack(">I", len(tags)) + table + body


class FileTest(unittest.TestCase):
    def test_pictures_are_read_as_pillow_reads_them(self) -> None:
        image = Image.fromarray(noise())
        for kind, options in (
            ("PNG", {}),
            ("JPEG", {"quality": 92}),
            ("WEBP", {"lossless": True}),
            ("TIFF", {}),
            ("TIFF", {"compression": "tiff_lzw"}),
        ):
            data = file_of(image, kind, **options)
            theirs = np.asarray(Image.open(io.BytesIO(data)).convert("RGB"))
            found = shown(read_picture(data))
            np.testing.assert_allclose(found[..., :3], theirs, atol=0.6, err_msg=kind)
            self.assertTrue((found[..., 3] == 255).all())

    def test_opacity_palettes_and_greys_are_read(self) -> None:
        rgba = noise(channels=4)
        rgba[..., 3] |= 64
        palette = Image.fromarray(noise()).quantize(32)
        clear = file_of(palette, "PNG", transparency=3)
        for data in (
            file_of(Image.fromarray(rgba), "PNG"),
            file_of(Image.fromarray(rgba), "WEBP", lossless=True, exact=True),
            clear,
            file_of(Image.fromarray(noise(channels=2), "LA"), "PNG"),
            file_of(Image.fromarray(noise()[..., 0]), "PNG"),
        ):
            theirs = np.asarray(Image.open(io.BytesIO(data)).convert("RGBA"), float)
            found = shown(read_picture(data))
            seen = theirs[..., 3] > 0
            np.testing.assert_allclose(found[..., 3], theirs[..., 3], atol=0.6)
            # What is faint keeps few digits in 8 bits, where they do not count.
            error = np.abs(found[..., :3] - theirs[..., :3]) * theirs[..., 3:] / 255
            self.assertLess(error[seen].max(), 2.5)

    def test_16_bits_keep_their_digits(self) -> None:
        values = np.random.default_rng(4).integers(0, 65_536, (30, 20, 3))
        out = io.BytesIO()
        png.Writer(20, 30, bitdepth=16, greyscale=False).write(out, values.reshape(30, 60).tolist())
        light = light_of(pyramid := read_picture(out.getvalue()), levels_of(pyramid)[0])
        np.testing.assert_allclose(light[..., :3], srgb_to_linear(values / 65_535), atol=3e-5)
        grey = Image.fromarray(values[..., 0].astype(np.uint16))
        for kind in ("PNG", "TIFF"):
            light = light_of(pyramid := read_picture(file_of(grey, kind)), levels_of(pyramid)[0])
            np.testing.assert_allclose(light[..., 1], srgb_to_linear(values[..., 0] / 65_535), atol=3e-5)

    def test_open_exr_keeps_light_brighter_than_white(self) -> None:
        light = (np.random.default_rng(6).random((12, 16, 3)) * 20).astype(np.float32)
        with tempfile.NamedTemporaryFile(suffix=".exr") as file:
            OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION}, {"RGB": light}).write(file.name)
            pyramid = read_picture(Path(file.name).read_bytes())
        found = light_of(pyramid, levels_of(pyramid)[0])
        np.testing.assert_allclose(found[..., :3], light, rtol=2e-3, atol=2e-3)

    def test_profiles_are_turned_into_srgb(self) -> None:
        profile = swapped_profile()
        data = file_of(Image.fromarray(noise()), "PNG", icc_profile=profile)
        theirs = ImageCms.profileToProfile(
            Image.fromarray(noise()),
            ImageCms.ImageCmsProfile(io.BytesIO(profile)),
            ImageCms.createProfile("sRGB"),
            outputMode="RGB",
        )
        found = shown(read_picture(data))[..., :3]
        np.testing.assert_allclose(found, np.asarray(theirs), atol=0.6)
        self.assertGreater(np.abs(found - noise()).mean(), 20)

    def test_exif_turns_pictures_upright(self) -> None:
        deep = Image.fromarray(np.random.default_rng(7).integers(0, 65_536, (8, 12)).astype(np.uint16))
        for orientation in range(1, 9):
            exif = Image.Exif()
            exif[0x0112] = orientation
            data = file_of(Image.fromarray(noise()), "PNG", exif=exif)
            theirs = ImageOps.exif_transpose(Image.open(io.BytesIO(data)))
            np.testing.assert_allclose(shown(read_picture(data))[..., :3], np.asarray(theirs), atol=0.6)
            theirs = ImageOps.exif_transpose(Image.open(io.BytesIO(file_of(deep, "PNG", exif=exif))))
            found = shown(read_picture(file_of(deep, "PNG", exif=exif)))[..., 0]
            np.testing.assert_allclose(found, np.asarray(theirs) / 257, atol=0.3)

    def test_what_cannot_be_used_says_what_to_do(self) -> None:
        frames = [Image.fromarray(noise()[..., ::step]) for step in (1, -1)]
        whole = file_of(Image.fromarray(noise(200, 200)), "PNG")
        bomb = bytearray(whole)
        bomb[16:24] = struct.pack(">II", 60_000, 60_000)
        bomb[29:33] = struct.pack(">I", zlib.crc32(bomb[12:29]))
        for data, said in (
            (b"", "no picture that Halvex reads"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "save it as PNG, JPEG, WebP, TIFF or OpenEXR"),
            (bytes(bomb), "save it smaller"),
            (whole[: len(whole) // 2], "save it again"),
            (file_of(Image.new("CMYK", (8, 8)), "JPEG"), "CMYK without a profile; save it in RGB"),
            (file_of(frames[0], "WEBP", save_all=True, append_images=frames[1:]), "animated"),
            (file_of(frames[0], "TIFF", save_all=True, append_images=frames[1:]), "save one of them"),
            (file_of(Image.fromarray(np.ones((4, 4), np.float32)), "TIFF"), "OpenEXR"),
            (b"\x76\x2f\x31\x01" + bytes(40), "OpenEXR file cannot be read"),
        ):
            with self.subTest(said), self.assertRaisesRegex(SceneError, said):
                read_picture(data)


class FootprintTest(unittest.TestCase):
    def test_levels_are_means_in_linear_light(self) -> None:
        pixels = np.dstack([noise(64, 96), np.full((64, 96), 255, np.uint8)])
        light = srgb_to_linear(pixels[..., :3] / 255)
        for pyramid, most in (
            (pyramid_of_eight(pixels), 0.004),
            (pyramid_of_light(np.dstack([light, np.ones((64, 96))]).astype(np.float32)), 2e-4),
        ):
            for number, step in ((1, 2), (3, 8)):
                level = light_of(pyramid, levels_of(pyramid)[number])
                truth = light.reshape(64 // step, step, 96 // step, step, 3).mean(axis=(1, 3))
                np.testing.assert_allclose(level[..., :3], truth, atol=most)
                # The same by Pillow's box filter.
                channel = Image.fromarray(light[..., 0].astype(np.float32))
                theirs = np.asarray(channel.resize((96 // step, 64 // step), Image.Resampling.BOX))
                np.testing.assert_allclose(level[..., 0], theirs, atol=most)
            self.assertLess(np.abs(mean_texel(pyramid)[:3] - light.mean(axis=(0, 1))).max(), 0.01)

    def test_odd_sizes_keep_their_place(self) -> None:
        ramp = np.linspace(0, 1, 77)[None, :, None] * np.ones((5, 1, 4))
        ramp[..., 3] = 1
        pyramid = pyramid_of_light(ramp.astype(np.float32))
        for width in (1, 2, 4, 8):
            found = looked_up(pyramid, [(20.5, 2.5), (40.5, 2.5)], width)[:, 0]
            np.testing.assert_allclose(found, [20 / 76, 40 / 76], atol=0.012)

    def test_between_px_colours_are_mixed_and_footprints_between_levels(self) -> None:
        row = np.zeros((1, 2, 4), np.float32)
        row[0, 1] = 1
        found = looked_up(pyramid_of_light(row), [(0.5, 0.5), (1.0, 0.5), (1.25, 0.5), (1.5, 0.5)], 1)
        np.testing.assert_allclose(found[:, 0], [0, 0.5, 0.75, 1], atol=1e-4)
        halves = looked_up(pyramid_of_light(row), [(0.5, 0.5)], 2**0.5)
        np.testing.assert_allclose(halves[0, 0], 0.25, atol=1e-4)

    def test_past_its_edges_a_picture_goes_on_as_asked_for(self) -> None:
        row = np.ones((1, 4, 4), np.float32)
        row[0, :, 0] = [0.1, 0.2, 0.3, 0.4]
        pyramid = pyramid_of_light(row)
        places = [(-0.5, 0.5), (4.5, 0.5), (-1.5, 0.5), (8.5, 0.5)]
        for edges, expected in (
            (TILED, [0.4, 0.1, 0.3, 0.1]),
            (MIRRORED, [0.1, 0.4, 0.2, 0.1]),
            (HELD, [0.1, 0.4, 0.1, 0.4]),
        ):
            found = looked_up(pyramid, places, 1, edges)
            np.testing.assert_allclose(found[:, 0], expected, atol=1e-4)
        # Far off and coarse, too, where the sides of levels are rounded up.
        odd = pyramid_of_light(np.tile(np.linspace(0, 1, 11)[None, :, None], (1, 1, 4)).astype(np.float32))
        for edges, period in ((TILED, 11), (MIRRORED, 22)):
            here, there = (looked_up(odd, [(3.0 + far, 0.5)], 4, edges) for far in (0, 40 * period))
            np.testing.assert_allclose(here, there, atol=1e-3)
        clear = looked_up(pyramid, [*places, (0.0, 0.5), (2.0, 0.5)], 1, CLEAR)
        np.testing.assert_allclose(clear[:, 3], [0, 0, 0, 0, 0.5, 1], atol=1e-4)


class Folder(unittest.TestCase):
    """A folder of pictures of one's own."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def assets(self) -> Assets:
        empty = self.folder / "none"
        return SHIPPED | Assets.of(typefaces=empty, panoramas=empty, pictures=self.folder)

    def piece(self, **picture: object) -> dict:
        return piece_of({"base": "#808080", "layers": [{"kind": "picture", "picture": "own", **picture}]})

    def drawn(self, values: dict) -> NDArray[np.float64]:
        order = DraftOrder()
        return np.asarray(render_piece(piece_from_values(values), order, assets=self.assets()).display, float)


class SurfaceTest(Folder):
    def test_a_picture_lies_on_its_face_px_for_px(self) -> None:
        smooth = Image.fromarray(noise(10, 20) // 4 + 60).resize((200, 100), Image.Resampling.BICUBIC)
        smooth.save(self.folder / "own.png")
        for fit in ("natural", "fill", "fit"):
            found = self.drawn(self.piece(fit=fit))[45:135, 65:255]
            np.testing.assert_allclose(found, np.asarray(smooth)[5:95, 5:195] / 255, atol=5 / 255)

    def test_pictures_are_fitted_moved_turned_and_scaled(self) -> None:
        halves = np.zeros((100, 100, 3), np.uint8)
        halves[:, 50:] = RED
        Image.fromarray(halves).save(self.folder / "own.png")
        inside = self.drawn(self.piece(fit="fit", edges="clear"))
        # The base at the sides, the picture upright between.
        np.testing.assert_allclose(inside[90, 80], 128 / 255, atol=3 / 255)
        np.testing.assert_allclose(inside[90, 185], np.array(RED) / 255, atol=3 / 255)
        np.testing.assert_allclose(inside[90, 135], 0, atol=3 / 255)
        moved = self.drawn(self.piece(fit="fit", edges="clear", x=25))
        np.testing.assert_allclose(moved[90, 185], 0, atol=3 / 255)
        turned = self.drawn(self.piece(fit="fit", edges="clear", turn=90))
        np.testing.assert_allclose(turned[60, 160], np.array(RED) / 255, atol=3 / 255)
        np.testing.assert_allclose(turned[120, 160], 0, atol=3 / 255)
        small = self.drawn(self.piece(fit="fit", edges="clear", scale=50))
        np.testing.assert_allclose(small[90, 195], 128 / 255, atol=3 / 255)

    def test_one_that_is_missing_shows_a_checker_and_is_named(self) -> None:
        values = self.piece()
        self.assertEqual(missing_pictures(piece_from_values(values), self.assets()), ["own"])
        face = self.drawn(values)[45:135, 65:255]
        # Two greys, and pixels on the edges between them.
        greys = np.round(face[..., 0] * 255)
        self.assertGreater(np.isin(greys, (96, 160)).mean(), 0.6)
        self.assertTrue(0.3 < (greys == 96).mean() < 0.7)
        # So does one that went bad on the disk.
        (self.folder / "own.png").write_bytes(b"gone bad")
        np.testing.assert_allclose(self.drawn(values)[45:135, 65:255], face)

    def test_scenes_with_pictures_travel_and_are_told_apart(self) -> None:
        keys = set()
        for shade in (40, 200):
            Image.new("RGB", (8, 8), (shade, shade, shade)).save(self.folder / "own.png")
            scene = scene_of(piece_from_values(self.piece()), assets=self.assets())
            keys.add(scene.keys.materials)
            other = scene_from_bytes(scene_to_bytes(scene))
            self.assertEqual(other.keys.materials, scene.keys.materials)
            np.testing.assert_array_equal(other.materials.texels.eight, scene.materials.texels.eight)
        self.assertEqual(len(keys), 2)


class BundleTest(Folder):
    def test_a_piece_is_saved_and_opened_with_its_pictures(self) -> None:
        Image.fromarray(noise()).save(self.folder / "own.png")
        piece = piece_from_values(self.piece())
        bundle = read_bundle(write_bundle(piece, self.assets()))
        self.assertEqual(to_json(bundle.piece), to_json(piece))
        self.assertEqual(bundle.pictures, {"own": (".png", (self.folder / "own.png").read_bytes())})
        self.assertEqual(write_bundle(piece, self.assets()), write_bundle(piece, self.assets()))

    def test_pictures_that_ship_are_not_packed(self) -> None:
        piece = piece_from_values(self.piece(picture="harbour"))
        self.assertEqual(pictures_in(piece), ("harbour",))
        self.assertEqual(read_bundle(write_bundle(piece, SHIPPED)).pictures, {})

    def test_files_that_are_no_pieces_say_what_to_do(self) -> None:
        def archive(files: dict[str, bytes]) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
                for name, data in files.items():
                    made.writestr(name, data)
            return out.getvalue()

        good = archive({"piece.json": b"{}"})
        for data, said in (
            (archive({}), "holds no piece.json"),
            (archive({"other.json": b"{}"}), "holds no piece.json"),
            (archive({"piece.json": b"[]"}), "a piece is a JSON object"),
            (archive({"piece.json": b"{}", "../evil.png": b""}), "no part of a piece"),
            (archive({"piece.json": b"{}", "pictures/a.exe": b""}), "no part of a piece"),
            (archive({"piece.json": b"{}", "pictures/a/b.png": b""}), "no part of a piece"),
            (archive({"piece.json": b" " * 3_000_000}), "is over 2 MB"),
            (archive({"piece.json": b"{}", "pictures/a.png": bytes(129_000_000)}), "is over 128 MB"),
            (good[:40], "cannot be read"),
            (b"PK\x03\x04", "cannot be read"),
            (archive({"piece.json": b"{}", **{f"pictures/a{n}.png": b"" for n in range(501)}}), "over 500"),
        ):
            with self.subTest(said), self.assertRaisesRegex(PieceError, said):
                read_bundle(data)


if __name__ == "__main__":
    unittest.main()


class ManyPicturesTest(unittest.TestCase):
    def test_pictures_that_a_scene_holds_are_not_read_again(self) -> None:
        """However many they are: none of these would be kept."""
        with tempfile.TemporaryDirectory() as name, patch.object(memory, "_shelf", memory._Shelf(1000)):
            folder = Path(name)
            for number in range(4):
                (folder / f"photograph-{number}.png").write_bytes(file_of(Image.fromarray(noise()), "PNG"))
            assets = SHIPPED | Assets.of(typefaces=folder, panoramas=folder, pictures=folder)
            layers = [{"kind": "picture", "picture": f"photograph-{number}"} for number in range(4)]
            face = {"kind": "paint", "colour": {"base": "#808080", "layers": layers}}
            block = {"words": "i", "size": 40, "surface": {"face": face}}
            shown = scene_of(piece_from_values({"blocks": [block]}), assets=assets)
            read = open_picture.misses
            moved = scene_of(piece_from_values({"blocks": [{**block, "place": {"x": 5}}]}), assets=assets)
            self.assertEqual(open_picture.misses, read)
            self.assertIs(moved.pictures, shown.pictures)
