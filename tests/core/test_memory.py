"""What is kept is counted in bytes: it stays within the budget, and what is in use stays."""

import subprocess
import sys
import unittest
from dataclasses import dataclass
from unittest import mock

import numpy as np

from halvex.core import memory
from halvex.core.memory import LEAST_BYTES, Kept, kept, latest_kept, next_picture, size_of


@dataclass(frozen=True, eq=False)
class Body:
    points: np.ndarray


def maker() -> Kept[[int], Body]:
    @kept
    def body(number: int) -> Body:
        return Body(np.full(1000, float(number)))

    return body


class KeptTest(unittest.TestCase):
    def setUp(self) -> None:
        shelf = memory._Shelf(1_000_000)
        patched = mock.patch.object(memory, "_shelf", shelf)
        patched.start()
        self.addCleanup(patched.stop)
        self.body = maker()

    def test_a_result_is_made_once(self) -> None:
        self.assertIs(self.body(1), self.body(1))
        self.assertEqual(self.body.misses, 1)

    def test_arrays_are_counted_with_all_that_holds_them(self) -> None:
        array = np.zeros(1000)
        self.assertEqual(size_of(array), 8000 + LEAST_BYTES)
        self.assertEqual(size_of((array, array)), 8016 + LEAST_BYTES)
        self.assertGreater(size_of({"a": Body(array)}), 8000)

    def test_dragging_a_number_stays_within_a_quarter_of_the_budget(self) -> None:
        for number in range(1000):
            self.body(number)
            next_picture()
        self.assertLessEqual(memory.bytes_kept(), 250_000)
        self.assertGreater(memory.bytes_kept(), 200_000)

    def test_what_several_pictures_want_is_not_pushed_out_by_a_drag(self) -> None:
        for _ in range(2):
            for number in range(20):
                self.body(number)
            next_picture()
        for number in range(100, 1000):
            self.body(number)
            next_picture()
        made = self.body.misses
        for number in range(20):
            self.body(number)
        self.assertEqual(self.body.misses, made)

    def test_arguments_that_are_equal_are_compared_only_once(self) -> None:
        compared = []

        class Outline:
            def __hash__(self) -> int:
                return 7

            def __eq__(self, other: object) -> bool:
                compared.append(other)
                return isinstance(other, Outline)

        made = kept(lambda outline: Body(np.zeros(8)))
        made(Outline())
        same = Outline()
        made(same)
        self.assertTrue(compared)
        compared.clear()
        self.assertEqual((made(same).points.shape, made.misses), ((8,), 1))
        self.assertEqual(compared, [])

    def test_what_is_shown_is_found_though_it_was_let_go(self) -> None:
        shown = self.body(0)
        for number in range(1, 1000):
            self.body(number)
        made = self.body.misses
        self.assertIs(self.body(0), shown)
        self.assertEqual(self.body.misses, made)

    def test_what_is_too_large_to_be_kept_pushes_out_nothing(self) -> None:
        large = kept(lambda number: Body(np.full(100_000, float(number))))
        self.body(1)
        held = large(1)
        self.assertEqual((self.body(1), self.body.misses), (self.body(1), 1))
        # Whoever shows it holds it.
        self.assertIs(large(1), held)

    def test_only_the_latest_of_large_results_are_kept(self) -> None:
        latest = latest_kept(3)(lambda number: Body(np.full(1000, float(number))))
        for number in range(5):
            latest(number)
        self.assertLess(memory.bytes_kept(), 4 * 8000)
        for number in (4, 3, 2):
            latest(number)
        self.assertEqual(latest.misses, 5)
        latest(1)
        self.assertEqual(latest.misses, 6)

    def test_the_longest_unused_goes_first(self) -> None:
        for number in range(20):
            self.body(number)
        self.body(0)
        memory.set_budget(400_000)
        made = self.body.misses
        self.body(0)
        self.assertEqual(self.body.misses, made)
        self.body(1)
        self.assertEqual(self.body.misses, made + 1)

    def test_clearing_forgets_one_function_alone(self) -> None:
        other = maker()
        self.body(1)
        other(1)
        self.body.cache_clear()
        self.body(1)
        other(1)
        self.assertEqual((self.body.misses, other.misses), (2, 1))

    def test_values_made_elsewhere_share_the_budget(self) -> None:
        values: memory.Values[Body] = memory.Values()
        first = Body(np.zeros(1000))
        before = memory.bytes_kept()
        values.put("first", first)
        self.assertGreater(memory.bytes_kept(), before + 8000)
        self.assertIs(values.find("first"), first)
        self.assertIsNone(values.find("second"))
        memory.set_budget(0)
        # What somebody holds is still found, all else is let go.
        self.assertIs(values.find("first"), first)
        del first
        self.assertIsNone(values.find("first"))


class AllocationTest(unittest.TestCase):
    def test_arrays_lie_where_freed_ones_lay(self) -> None:
        """As large as those of a draft, on another thread than the first: pages that are new to the process
        are few."""
        script = """
import resource, threading
import numpy as np
from halvex.core.allocation import keep_freed_memory

def pages():
    before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
    images = [np.full((540, 960, 3), n, np.float32) for n in range(6)]
    return resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before

def later():
    print(int(keeps), pages(), max(pages() for _ in range(4)))

keeps = keep_freed_memory()
pages()
thread = threading.Thread(target=later)
thread.start()
thread.join()
"""
        printed = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
        keeps, _, later = map(int, printed.stdout.split())
        if not keeps:
            self.skipTest("another C library than glibc")
        self.assertLess(later, 200)

    def test_what_is_loaded_is_left_out_of_garbage_collection(self) -> None:
        script = """
import gc
from halvex.core.allocation import collect_rarely

loaded = [[n] for n in range(1_000)]
collect_rarely()
print(sum(isinstance(one, list) and one in ([5], [999]) for one in gc.get_objects()), gc.get_freeze_count())
kept = []
before = gc.get_stats()[0]["collections"]
kept = [[n] for n in range(10_000)]
print(gc.get_stats()[0]["collections"] - before)
"""
        printed = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
        walked, frozen, collected = map(int, printed.stdout.split())
        self.assertEqual(walked, 0)
        self.assertGreater(frozen, 1_000)
        self.assertEqual(collected, 0)


if __name__ == "__main__":
    unittest.main()
