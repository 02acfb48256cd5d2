"""Kernels, what is compiled into them, and tuples handed on by reference."""

import gc
import re
import subprocess
import sys
import tempfile
import unittest
from typing import NamedTuple
from unittest import mock

import numpy as np
from numba import njit
from numba.core.caching import NullCache

from halvex.core import references
from halvex.core.kernels import helper, kernel, routine, wide_kernel
from halvex.core.optics.vectors import floorf
from halvex.core.references import Held, by_reference
from halvex.core.render.lanes import PACKET_FLOATS, prefetch_packet
from halvex.core.widening import WIDEST


class Lamp(NamedTuple):
    colours: np.ndarray
    place: tuple[float, float, float]
    is_lit: bool


class Room(NamedTuple):
    height: int
    lamp: Lamp
    walls: np.ndarray
    names: np.ndarray


@routine
def _shared(room, i):
    return room.lamp.colours[i] * room.lamp.place[1]


@helper
def _inlined(room, i):
    return _shared(room, i) + room.walls[i, 0]


@kernel
def _light(room, i):
    room = by_reference(room)
    total = _inlined(room, i) + _inlined(room, i + 1) + room.height
    return total if room.lamp.is_lit else -total


@kernel
def _read_back(room):
    """What a reference shows of an array that is written to."""
    held = by_reference(by_reference(room))
    before = held.walls[0, 0]
    room.walls[0, 0] += 1.0
    return held.walls[0, 0] - before


@kernel
def _read_ahead(packets, row):
    prefetch_packet(packets, row)
    return packets.sum()


@kernel
def _round_down(values, out):
    for i in range(values.shape[0]):
        out[i] = floorf(values[i])


@wide_kernel
def _double_widely(values, out):
    for i in range(values.shape[0]):
        out[i] = 2 * values[i]


def _room(is_lit: bool = True) -> Room:
    lamp = Lamp(np.arange(4.0), (1.0, 2.0, 3.0), is_lit)
    return Room(3, lamp, np.ones((4, 2)), np.zeros((2, 3, 4), np.int32))


class KernelTest(unittest.TestCase):
    def setUp(self) -> None:
        # Code for these rooms, kept on disk, could not be read where the tests are not.
        for own in (references._size, references._lay_out):
            patch = mock.patch.object(own, "_cache", NullCache())
            patch.start()
            self.addCleanup(patch.stop)

    def test_helpers_work_alone_and_within_kernels(self) -> None:
        room = _room()
        self.assertEqual(_inlined(room, 2), 5.0)
        self.assertEqual(_shared(room, 2), 4.0)
        self.assertEqual(_light(room, 1), 3.0 + 5.0 + 3.0)
        self.assertEqual(_light(_room(is_lit=False), 1), -11.0)

    def test_helpers_are_compiled_into_kernels_and_routines_are_shared(self) -> None:
        """Even a routine that a helper calls: by itself numba would compile it in, too."""
        fresh = njit(_light.py_func)
        fresh(_room(), 1)
        code = next(iter(fresh.inspect_llvm().values()))
        defined = " ".join(re.findall(r"^define [^@]*@\"?(\w+)", code, re.MULTILINE))
        self.assertIn("_shared", defined)
        self.assertNotIn("_inlined", defined)

    def test_wide_kernels_do_the_same_and_ask_for_the_widest_vectors(self) -> None:
        values = np.arange(100, dtype=np.float32)
        wide, plain = np.empty_like(values), np.empty_like(values)
        _double_widely(values, wide)
        njit(_double_widely.py_func)(values, plain)
        np.testing.assert_array_equal(wide, plain)
        fresh = wide_kernel(_double_widely.py_func)
        fresh._cache = NullCache()
        fresh(values, wide)
        self.assertIn(WIDEST, next(iter(fresh.inspect_llvm().values())))

    def test_what_is_read_ahead_is_asked_for_and_changes_nothing(self) -> None:
        """Even past the end of an array."""
        packets = np.arange(2.0 * PACKET_FLOATS, dtype=np.float32)
        fresh = njit(_read_ahead.py_func)
        for row in (0, 1, 1000, -1000):
            self.assertEqual(fresh(packets, row), packets.sum())
        # Nine rows of eight numbers are four lines and a half.
        self.assertEqual(
            len(re.findall(r"call void @llvm\.prefetch", next(iter(fresh.inspect_llvm().values())))), 5
        )

    def test_rounding_down_is_exact_and_calls_nothing(self) -> None:
        near = np.array([-2.5, -2, -1e-9, -0.0, 0.0, 0.5, 1 - 1e-7, 1, 8388607.5, 3e9, -7e18, 1e30, np.inf])
        for kind in (np.float32, np.float64):
            values = near.astype(kind)
            out = np.empty_like(values)
            fresh = njit(_round_down.py_func)
            fresh(values, out)
            np.testing.assert_array_equal(out, np.floor(values))
            self.assertNotIn(
                "floorf", " ".join(re.findall(r"call\w*.*", next(iter(fresh.inspect_asm().values()))))
            )

    def test_references_see_what_is_written_to_arrays(self) -> None:
        self.assertEqual(_read_back(_room()), 1.0)

    def test_a_tuple_held_in_memory_is_the_tuple(self) -> None:
        rooms = [_room(), _room()._replace(height=7, lamp=_room().lamp._replace(is_lit=False))]
        held = [Held(room) for room in rooms]
        for room, own in zip(rooms, held, strict=True):
            self.assertEqual(_light(own, 1), _light(room, 1))
        rooms[0].walls[:] += 1
        self.assertEqual(_light(held[0], 1), _light(rooms[0], 1), "arrays are not copied")

    def test_a_held_tuple_keeps_its_arrays(self) -> None:
        expected = _light(_room(), 1)
        held = [Held(_room()) for _ in range(100)]
        gc.collect()
        self.assertEqual({_light(own, 1) for own in held}, {expected})

    def test_the_application_needs_no_tests_to_read_its_kernels(self) -> None:
        self.assertEqual(_light(Held(_room()), 1), _light(_room(), 1))
        hold = "from halvex.core.references import Held; from halvex.core.render.path_state import PathRules"
        with tempfile.TemporaryDirectory() as elsewhere:
            command = [sys.executable, "-c", f"{hold}; print(Held(PathRules()).address > 0)"]
            said = subprocess.run(command, cwd=elsewhere, capture_output=True, text=True, check=True)
        self.assertEqual(said.stdout.strip(), "True")

    def test_arrays_of_another_kind_make_another_type(self) -> None:
        wide = _room()._replace(walls=np.asfortranarray(_room().walls))
        self.assertEqual(_light(Held(wide), 1), _light(wide, 1))


if __name__ == "__main__":
    unittest.main()
