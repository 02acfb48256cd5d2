"""Files against their specifications."""

import io
import json
import shutil
import struct
import subprocess
import tempfile
import unittest
import zlib
from pathlib import Path

import numpy as np
import OpenEXR
import trimesh
from PIL import Image

from halvex.core.finish.picture import Picture
from halvex.core.output.models import MODEL_FORMATS, encode_model
from halvex.core.output.pictures import FORMATS, encode, to_integers
from halvex.core.piece import piece_from_values

FRONTEND = Path(__file__).parents[2] / "frontend"


def sample(alpha: bool) -> Picture:
    y, x = np.mgrid[0:40, 0:60].astype(np.float32)
    display = np.stack([x / 59, y / 39, np.full_like(x, 0.5)], axis=2)
    return Picture(display, display * 3, (x / 59).astype(np.float32) if alpha else None)


def chunks(data: bytes) -> dict[str, bytes]:
    found, at = {}, 8
    while at < len(data):
        length, name = struct.unpack(">I4s", data[at : at + 8])
        body = data[at + 8 : at + 8 + length]
        assert struct.unpack(">I", data[at + 8 + length : at + 12 + length])[0] == zlib.crc32(name + body)
        found[name.decode()] = body
        at += 12 + length
    return found


class PictureFileTest(unittest.TestCase):
    def test_png_carries_srgb_and_density(self) -> None:
        """W3C PNG, third edition: 300 ppi is 11811 per metre."""
        for depth in (8, 16):
            for alpha in (False, True):
                data = encode(sample(alpha), "png", ppi=300, depth=depth)
                found = chunks(data)
                self.assertEqual(found["pHYs"], struct.pack(">IIB", 11811, 11811, 1))
                self.assertEqual(found["sRGB"], b"\x00")
                self.assertEqual(found["IHDR"][8:10], bytes([depth, 6 if alpha else 2]))

    def test_png_pixels_are_the_pictures(self) -> None:
        for alpha in (False, True):
            self.assertTrue(
                np.array_equal(
                    np.array(Image.open(io.BytesIO(encode(sample(alpha), "png")))), to_integers(sample(alpha))
                )
            )
        import png

        _, _, rows, _ = png.Reader(bytes=encode(sample(True), "png", depth=16)).read()
        self.assertTrue(
            np.array_equal(
                np.vstack([np.array(row) for row in rows]).reshape(40, 60, 4), to_integers(sample(True), 16)
            )
        )

    def test_smooth_colours_are_dithered_and_whole_ones_kept(self) -> None:
        """Over 16 px the mean of a slow ramp is right to a fortieth of a step, where cutting alone is off by
        up to half; the error is high in frequency, as its spectrum (by numpy) says."""
        ramp = np.tile(np.linspace(100, 101, 512, dtype=np.float32)[:, None, None] / 255, (1, 512, 3))
        error = to_integers(Picture(ramp, ramp, None)).astype(float)[..., 0] - ramp[..., 0] * 255
        means = error.reshape(32, 16, 32, 16).mean(axis=(1, 3))
        self.assertLess(np.abs(means).max(), 0.06)
        self.assertLess(np.abs(means).mean(), 1 / 40)
        power = np.abs(np.fft.fft2(error - error.mean())) ** 2
        place = np.hypot(*np.meshgrid(np.fft.fftfreq(512), np.fft.fftfreq(512)))
        self.assertLess(power[place < 0.05].mean(), 0.25 * power[place > 0.2].mean())
        whole = np.tile(np.arange(256, dtype=np.float32)[:, None, None] / 255, (1, 40, 3))
        np.testing.assert_array_equal(
            to_integers(Picture(whole, whole, None)), np.round(whole * 255).astype(np.uint8)
        )

    def test_every_format_opens_at_its_size(self) -> None:
        for kind in FORMATS:
            data = encode(sample(False), kind)
            if kind == "exr":
                with tempfile.NamedTemporaryFile(suffix=".exr") as file:
                    file.write(data)
                    file.flush()
                    with OpenEXR.File(file.name) as opened:
                        np.testing.assert_allclose(
                            opened.channels()["RGB"].pixels, sample(False).linear, rtol=1e-6
                        )
            else:
                self.assertEqual(Image.open(io.BytesIO(data)).size, (60, 40), kind)

    def test_jpeg_refuses_transparency(self) -> None:
        with self.assertRaises(ValueError):
            encode(sample(True), "jpg")
        with self.assertRaises(ValueError):
            encode(sample(False), "bmp")


class ModelFileTest(unittest.TestCase):
    piece = piece_from_values({"blocks": [{"words": "Oi", "surface": {"return": {"kind": "glass"}}}]})

    def test_models_open_and_are_closed(self) -> None:
        for kind in MODEL_FORMATS:
            loaded = trimesh.load(io.BytesIO(encode_model(self.piece, kind)), file_type=kind, process=False)
            mesh = loaded.to_geometry() if isinstance(loaded, trimesh.Scene) else loaded
            self.assertGreater(mesh.volume, 0, kind)
            # The other formats write every triangle's corners apart.
            if kind == "ply":
                self.assertTrue(mesh.is_watertight, kind)

    @unittest.skipUnless(shutil.which("node"), "needs Node")
    def test_khronos_validator_has_nothing_to_say(self) -> None:
        script = (
            "import {readFileSync} from 'fs'; import v from 'gltf-validator';"
            "const r = await v.validateBytes(new Uint8Array(readFileSync(process.argv[1])));"
            "console.log(JSON.stringify(r.issues));"
        )
        with tempfile.NamedTemporaryFile(suffix=".glb") as file:
            file.write(encode_model(self.piece, "glb"))
            file.flush()
            answer = subprocess.run(
                ["node", "--input-type=module", "-e", script, file.name],
                cwd=FRONTEND,
                capture_output=True,
                text=True,
                timeout=120,
            )
        self.assertEqual(answer.returncode, 0, answer.stderr)
        issues = json.loads(answer.stdout)
        self.assertEqual((issues["numErrors"], issues["numWarnings"]), (0, 0), issues["messages"][:3])


if __name__ == "__main__":
    unittest.main()
