"""Inputs that once broke something, each tried in a child process: taken or refused with one clear
error, within 5 s and 1.5 GB.

tools/fuzz.py puts here what it finds. The documents' bodies are made once more with compiled
kernels that check all bounds.
"""

import unittest
from pathlib import Path

from hypothesis import find

from tests.fuzzing.nursery import Nursery
from tests.fuzzing.strategies import of_kind
from tests.fuzzing.targets import TARGETS

CORPUS = Path(__file__).parent / "corpus"
# How long an input takes is the fuzzer's to judge, on a machine with nothing else to do; that of a
# child that checks all bounds is not that of the application at all.
TIMING, CHECKED_TIMING = ("slow",), ("slow", "hung", "large")


class StrategiesTest(unittest.TestCase):
    def test_there_is_input_of_every_kind(self) -> None:
        for kind in TARGETS:
            with self.subTest(kind):
                if kind != "bodies":  # those of documents
                    self.assertIsInstance(find(of_kind(kind), lambda data: True), bytes)


class CorpusTest(unittest.TestCase):
    def tried(self, pattern: str, kind: str = "", *, checked: bool) -> None:
        nursery = Nursery(checked=checked)
        self.addCleanup(nursery.close)
        paths = sorted(CORPUS.glob(pattern))
        self.assertTrue(paths)
        for path in paths:
            with self.subTest(path.name):
                outcome = nursery.try_out(kind or path.name.split("-")[0], path.read_bytes())
                self.assertFalse(
                    outcome.fault and outcome.result not in (CHECKED_TIMING if checked else TIMING), outcome
                )

    def test_what_once_broke_something_does_so_no_more(self) -> None:
        self.tried("*-*", checked=False)

    def test_no_kernel_reads_or_writes_past_an_array(self) -> None:
        self.tried("document-*", "bodies", checked=True)


if __name__ == "__main__":
    unittest.main()
