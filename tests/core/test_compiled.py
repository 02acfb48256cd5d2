"""How far the kernels are compiled, and what waits for them."""

import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from halvex.core import compiled
from halvex.core.render import gate
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

    def test_the_share_grows_with_every_kernel_and_is_whole_at_the_end(self) -> None:
        shares = [compiled.share_compiled()]
        for name in ("path.trace_path-268.py311.nbi", "hits.seen_hit-30.py311.nbi"):
            (self.folder / name).touch()
            shares.append(compiled.share_compiled())
        # Another variant of a kernel, and a kernel of another line, are no other kernel.
        (self.folder / "path.trace_path-268.py311.2.nbc").touch()
        (self.folder / "path.trace_path-270.py311.nbi").touch()
        self.assertEqual(compiled.share_compiled(), shares[-1])
        self.assertEqual(shares[0], 0)
        self.assertEqual(sorted(set(shares)), shares)
        self.assertFalse(compiled.is_integrator_compiled())

    def test_only_the_integrator_marks_its_kernels(self) -> None:
        steps = {name: mock.Mock() for name in compiled.STEPS}
        with mock.patch.object(compiled, "STEPS", steps):
            compiled.compile_for_drafts(lambda line: None)
            self.assertFalse(compiled.is_integrator_compiled())
            steps[compiled.INTEGRATOR].assert_not_called()
            compiled.compile_all(lambda line: None)
        self.assertTrue(compiled.is_integrator_compiled())
        self.assertEqual(compiled.share_compiled(), 1)
        with mock.patch.object(compiled, "cache_name", return_value="light-later"):
            self.assertFalse(compiled.is_integrator_compiled())


class GateTest(unittest.TestCase):
    def test_what_waits_goes_on_when_it_opens_or_is_cancelled(self) -> None:
        gate.shut()
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
