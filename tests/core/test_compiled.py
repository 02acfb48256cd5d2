"""How far the kernels are compiled, and what waits for them."""

import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from numba.core.dispatcher import Dispatcher

from halvex.core import compiled
from halvex.core.render import gate
from halvex.core.render.draft import sketch
from halvex.core.stopping import CancelledError


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
        with mock.patch.object(compiled, "_render", lambda quality, **options: rendered.append(quality)):
            compiled.load_for_drafts()
            self.assertFalse(compiled.is_integrator_compiled())
            self.assertEqual(rendered, ["draft"])
            compiled.load_integrator()
        self.assertEqual(rendered, ["draft", "final"])
        self.assertTrue(compiled.is_integrator_compiled())
        with mock.patch.object(compiled, "cache_name", return_value="light-later"):
            self.assertFalse(compiled.is_integrator_compiled())


class AheadTest(unittest.TestCase):
    def test_each_kernel_of_a_draft_is_compiled_by_one_process_or_by_both(self) -> None:
        kernels = {name for name, value in vars(sketch).items() if isinstance(value, Dispatcher)}
        self.assertEqual(kernels - {"draw_letters", "light_beads", "depths"}, {*compiled.SEEING, "shade"})

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
