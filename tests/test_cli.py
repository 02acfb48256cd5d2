"""The command line, as one would type it."""

import contextlib
import io
import json
import subprocess
import sys
import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest import mock

import numpy as np
import OpenEXR
from PIL import Image

from benchmarks.result import Result
from benchmarks.run import run

TINY = json.dumps({"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]})


def halvex(*arguments: str, given: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "halvex.cli", *arguments],
        input=given,
        capture_output=True,
        text=True,
        timeout=600,
    )


class CommandLineTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_demo_and_schema_are_printed(self) -> None:
        names = halvex("demo", "--list").stdout.split()
        self.assertIn("lantern-regatta", names)
        self.assertEqual(json.loads(halvex("demo", "lantern-regatta").stdout)["name"], "Lantern Regatta")
        self.assertEqual(json.loads(halvex("schema").stdout)["title"], "Piece")

    def test_outlines_are_written_as_svg(self) -> None:
        out = self.folder / "i.svg"
        answer = halvex("outlines", "-", str(out), given=TINY)
        self.assertEqual(answer.returncode, 0, answer.stderr)
        self.assertEqual(out.read_text().count("<path"), 1)
        refused = halvex("outlines", "-", str(self.folder / "i.txt"), given=TINY)
        self.assertEqual(refused.returncode, 2)
        self.assertIn("svg", refused.stderr)

    def test_render_writes_what_it_says(self) -> None:
        out = self.folder / "i.png"
        answer = halvex(
            "render", "-", str(out), "--size", "96x", "--samples", "2", "--transparent", "--json", given=TINY
        )
        self.assertEqual(answer.returncode, 0, answer.stderr)
        said = json.loads(answer.stdout)
        self.assertEqual((said["width"], said["height"]), (96, 54))
        image = np.array(Image.open(io.BytesIO(out.read_bytes())))
        self.assertEqual(image.shape, (54, 96, 4))
        again = self.folder / "again.png"
        halvex(
            "render",
            "-",
            str(again),
            "--size",
            "96x",
            "--samples",
            "2",
            "--transparent",
            "--threads",
            "1",
            given=TINY,
        )
        self.assertEqual(out.read_bytes(), again.read_bytes())

    def test_layers_are_channels_of_an_open_exr_file(self) -> None:
        out = self.folder / "i.exr"
        answer = halvex("render", "-", str(out), "--size", "96x", "--noise", "0.1", "--layers", given=TINY)
        self.assertEqual(answer.returncode, 0, answer.stderr)
        with OpenEXR.File(str(out), separate_channels=True) as file:
            names = set(file.channels())
        self.assertTrue(
            {
                "R",
                "G",
                "B",
                "light.key.R",
                "light.surround.G",
                "mask.face.Y",
                "shadow.Y",
                "depth.Y",
                "normal.B",
                "albedo.R",
            }
            <= names
        )

    def test_mesh_writes_a_model(self) -> None:
        out = self.folder / "i.glb"
        self.assertEqual(halvex("mesh", "-", str(out), given=TINY).returncode, 0)
        self.assertEqual(out.read_bytes()[:4], b"glTF")

    def test_a_piece_is_rendered_with_the_pictures_in_its_file(self) -> None:
        picture, out = io.BytesIO(), self.folder / "i.png"
        Image.new("RGB", (20, 20), "#18a048").save(picture, "PNG")
        colour = {"base": "#000000", "layers": [{"kind": "picture", "picture": "own"}]}
        block = {"kind": "shape", "shape": "rectangle", "width": 60, "height": 30}
        values = json.loads(TINY) | {
            "view": {"projection": "parallel"},
            "blocks": [{**block, "surface": {"face": {"kind": "flat", "colour": colour}}}],
        }
        whole = self.folder / "i.halvex"
        with zipfile.ZipFile(whole, "w") as archive:
            archive.writestr("piece.json", json.dumps(values))
            archive.writestr("pictures/own.png", picture.getvalue())
        answer = halvex("render", str(whole), str(out), "--quality", "draft")
        self.assertEqual((answer.returncode, answer.stderr), (0, ""))
        np.testing.assert_allclose(np.array(Image.open(out))[18, 32, :3], (0x18, 0xA0, 0x48), atol=3)
        # Without them it is rendered, and says what is missing.
        answer = halvex("render", "-", str(out), "--quality", "draft", given=json.dumps(values))
        self.assertEqual(answer.returncode, 0)
        self.assertIn("the picture own is missing", answer.stderr)

    def test_bad_input_is_one_line_and_status_2(self) -> None:
        out = str(self.folder / "o.png")
        cases = [
            ("render", "-", out, "{"),
            ("render", "-", out, '{"blocks": [{"size": -1}]}'),
            ("render", "-", out, '{"blocks": [{"words": "🎉"}]}'),
            ("render", "-", out, '{"canvas": {"width": 100000}}'),
            ("render", "-", str(self.folder / "o.gif"), TINY),
            ("render", "-", str(self.folder / "none/o.png"), TINY),
            ("render", str(self.folder / "missing.json"), out, ""),
            ("render", "-", out, "--size", "big", TINY),
            ("render", "-", out, "--layers", TINY),
            ("render", "-", out, "--noise", "7", TINY),
            ("render", "-", out, "--frame", "-3", TINY),
            ("render", "-", out, '{"light": {"surround": {"kind": "panorama", "picture": "lost"}}}'),
            ("render", "-", out, '{"light": {"lamps": [{"kind": "bulb", "width": 9000}]}}'),
            ("render", "-", out, "--size", "100000x100000", TINY),
            ("mesh", "-", str(self.folder / "o.xyz"), TINY),
            ("demo", "no-such", ""),
        ]
        for *arguments, given in cases:
            with self.subTest(arguments=arguments, given=given[:40]):
                answer = halvex(*arguments, given=given)
                self.assertEqual(answer.returncode, 2, answer.stderr)
                self.assertEqual(len(answer.stderr.strip().splitlines()), 1, answer.stderr)


class BenchmarkTest(unittest.TestCase):
    def test_figures_are_json_whatever_made_them(self) -> None:
        """Such as numbers of numpy."""
        figure = Result("tree", np.float32(37.5), "ms", None, None, None, "≤ 60 ms", np.float64(37.5) <= 60)
        printed = io.StringIO()
        with (
            mock.patch("benchmarks.run.render.tree", return_value=[figure]),
            mock.patch("benchmarks.run.collect_rarely"),
            contextlib.redirect_stdout(printed),
        ):
            run(["tree"], as_json=True)
        (shown,) = json.loads(printed.getvalue())["results"]
        self.assertEqual((shown["ours"], shown["met"]), (37.5, True))


if __name__ == "__main__":
    unittest.main()
