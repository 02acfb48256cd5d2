"""How far the kernels are compiled, and what waits for them."""

import multiprocessing
import subprocess
import sys
import tempfile
import threading
import unittest
from concurrent.futures import ProcessPoolExecutor
from multiprocessing.connection import Connection
from pathlib import Path
from unittest import mock

from halvex.core import compiled
from halvex.core.render import gate
from halvex.core.render.draft import sketch
from halvex.core.render.work import shared_pool
from halvex.core.scene import Scene
from halvex.core.stopping import CancelledError


def failing(sender: Connection) -> None:
    """Goes through two steps and ends as if it had failed."""
    sender.send(("solids", 1.0))
    sender.send((compiled.PAINTING, 2.0))
    sys.exit(1)


def seven_of_a_thread() -> int:
    return shared_pool().submit(int, "7").result(10)


class CompiledTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for name, answer in (("cache_folder", str(self.folder)), ("cache_name", "light-now")):
            patch = mock.patch.object(compiled, name, return_value=answer)
            patch.start()
            self.addCleanup(patch.stop)

    def test_how_long_the_integrator_takes_is_told_from_the_drafts(self) -> None:
        self.assertEqual(compiled.integrator_seconds(), compiled.USUAL_S)
        (self.folder / "seconds").write_text("87.5")
        self.assertEqual(compiled.integrator_seconds(), 87.5)

    def test_only_the_integrator_marks_its_kernels(self) -> None:
        rendered: list[str] = []
        render = mock.patch.object(compiled, "_render", lambda quality, **options: rendered.append(quality))
        with render, mock.patch.object(compiled, "_throw_light", lambda: rendered.append("photons")):
            compiled.load_for_drafts()
            self.assertFalse(compiled.is_integrator_compiled())
            self.assertEqual(rendered, ["draft"])
            compiled.load_integrator()
        self.assertEqual(rendered, ["draft", "final", "photons"])
        self.assertTrue(compiled.is_integrator_compiled())
        with mock.patch.object(compiled, "cache_name", return_value="light-later"):
            self.assertFalse(compiled.is_integrator_compiled())


class AheadTest(unittest.TestCase):
    def test_the_last_steps_of_drafts_are_left_to_those_who_paint_them(self) -> None:
        own = {name: vars(sketch)[name] for name in compiled.PAINTERS}

        def draw(scene: Scene, *given: object, pool: object) -> None:
            self.assertEqual(len(scene.instances), 1)
            self.assertFalse({*own.values()} & {vars(sketch)[name] for name in own})

        with mock.patch.object(sketch.Sketcher, "draw", side_effect=draw) as drawn:
            compiled._see()
        self.assertEqual(drawn.call_count, 2)
        self.assertEqual({name: vars(sketch)[name] for name in compiled.PAINTERS}, own)

    def test_a_process_that_fails_while_it_compiles_is_an_error(self) -> None:
        lines: list[str] = []
        with mock.patch.object(compiled, "_compile_all", failing), self.assertRaisesRegex(RuntimeError, "1$"):
            compiled.compile_kernels(lines.append, lambda: lines.append("drafts"))
        self.assertEqual(lines, ["solids: 1.0 s", "painting of drafts: 2.0 s", "drafts"])

    def test_a_copy_of_the_process_has_threads_of_its_own(self) -> None:
        self.assertEqual(shared_pool().submit(int, "7").result(10), 7)
        with ProcessPoolExecutor(1, multiprocessing.get_context("fork")) as copies:
            self.assertEqual(copies.submit(seven_of_a_thread).result(30), 7)

    def test_no_kernel_that_python_calls_is_left_to_be_compiled_when_it_is_needed(self) -> None:
        left = subprocess.run([sys.executable, "-m", "tests.kernels_left"], capture_output=True, text=True)
        self.assertEqual((left.stdout, left.returncode), ("", 0), left.stderr)


class GateTest(unittest.TestCase):
    def test_the_share_grows_and_is_whole_when_it_opens(self) -> None:
        self.addCleanup(gate.open_up)
        self.assertEqual(gate.share(), 1)
        with mock.patch("time.monotonic", side_effect=[100.0, 100.0, 130.0, 500.0]):
            gate.shut(60)
            self.assertEqual([gate.share() for _ in range(3)], [0, 0.5, gate.MOST_SHARE])
        gate.open_up()
        self.assertEqual(gate.share(), 1)

    def test_what_waits_goes_on_when_it_opens_or_is_cancelled(self) -> None:
        gate.shut(1)
        self.addCleanup(gate.open_up)
        cancelled = threading.Event()
        ended: list[str] = []

        def waiting() -> None:
            try:
                gate.wait(cancelled.is_set)
                ended.append("through")
            except CancelledError:
                ended.append("cancelled")

        for act, said in ((cancelled.set, "cancelled"), (gate.open_up, "through")):
            cancelled.clear()
            thread = threading.Thread(target=waiting)
            thread.start()
            self.assertTrue(thread.is_alive())
            act()
            thread.join(10)
            self.assertEqual(ended[-1:], [said])


if __name__ == "__main__":
    unittest.main()
