"""What a window is sent, and in which order."""

import threading
import unittest
from typing import Any

from halvex.web.sockets import Outbox


class Wire:
    """A socket that keeps what it is given."""

    def __init__(self) -> None:
        self.sent: list[str | bytes] = []
        self.came = threading.Condition()

    def send_whole(self, data: str | bytes) -> None:
        with self.came:
            self.sent.append(data)
            self.came.notify_all()


class OutboxTest(unittest.TestCase):
    def setUp(self) -> None:
        self.wire: Any = Wire()
        self.outbox = Outbox(self.wire)
        self.addCleanup(self.outbox.close)

    def until(self, count: int) -> list[str | bytes]:
        with self.wire.came:
            self.assertTrue(self.wire.came.wait_for(lambda: len(self.wire.sent) >= count, timeout=60))
            return list(self.wire.sent)

    def hold(self, state: str) -> threading.Event:
        """Have the outbox wait with a state until the event is set."""
        waits, free = threading.Event(), threading.Event()

        def wait() -> None:
            waits.set()
            free.wait(60)

        self.outbox.state(lambda: state, wait)
        self.assertTrue(waits.wait(60))
        return free

    def test_a_frame_that_is_drawn_while_its_state_waits_goes_first(self) -> None:
        drawn = self.hold("state")
        self.outbox.frame(b"frame")
        drawn.set()
        self.assertEqual(self.until(2), [b"frame", "state"])

    def test_of_states_and_frames_only_the_newest_is_sent_and_answers_all(self) -> None:
        free = self.hold("first")
        for number in range(3):
            self.outbox.frame(b"frame %d" % number)
            self.outbox.state(lambda number=number: f"state {number}")
            self.outbox.answer(f"answer {number}")
        free.set()
        self.assertEqual(self.until(6), [b"frame 2", "first", "answer 0", "answer 1", "answer 2", "state 2"])

    def test_the_reason_why_there_is_no_picture_takes_the_place_of_an_older_one(self) -> None:
        free = self.hold("first")
        self.outbox.frame(b"older picture")
        self.outbox.frame("no picture")
        self.outbox.answer("answer")
        free.set()
        self.assertEqual(self.until(3), ["no picture", "first", "answer"])
