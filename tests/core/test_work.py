"""Steps on threads: order, failure and being stopped."""

import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor

from halvex.core.render.work import Steps
from halvex.core.stopping import CancelledError


class StepsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.pool = ThreadPoolExecutor(4)
        self.addCleanup(self.pool.shutdown)

    def test_a_step_waits_for_what_it_needs_and_for_nothing_else(self) -> None:
        ended: list[str] = []
        gate = threading.Event()

        def slow() -> None:
            self.assertTrue(gate.wait(10))
            ended.append("slow")

        def free() -> None:
            ended.append("free")
            gate.set()

        steps = Steps()
        first = steps.add(slow)
        steps.add(lambda: ended.append("after"), [first])
        steps.add(free)
        steps.run(self.pool, lambda: False)
        self.assertEqual(ended, ["free", "slow", "after"])

    def test_one_thread_is_enough(self) -> None:
        ended: list[int] = []
        with ThreadPoolExecutor(1) as pool:
            steps = Steps()
            for number in range(9):
                steps.add(lambda number=number: ended.append(number), range(number))  # type: ignore[misc]
            steps.run(pool, lambda: False)
        self.assertEqual(ended, list(range(9)))

    def test_nothing_that_needs_a_failed_step_is_run(self) -> None:
        ran: list[str] = []

        def failing() -> None:
            time.sleep(0.02)
            raise ValueError("no")

        steps = Steps()
        failed = steps.add(failing)
        between = steps.add(lambda: ran.append("between"), [failed])
        steps.add(lambda: ran.append("last"), [between])
        with self.assertRaises(ValueError):
            steps.run(self.pool, lambda: False)
        self.pool.shutdown(wait=True)
        self.assertEqual(ran, [])

    def test_it_can_be_stopped_in_between(self) -> None:
        ran: list[int] = []
        steps = Steps()
        first = steps.add(lambda: ran.append(0))
        steps.add(lambda: ran.append(1), [first])
        with self.assertRaises(CancelledError):
            steps.run(self.pool, lambda: bool(ran))
        self.assertEqual(ran, [0])
