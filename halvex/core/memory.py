"""Memory: everything that is kept because it may be wanted again, counted in bytes, in one place.

    @kept
    def body_of(outline, form): ...

keeps what the function gives, by its arguments. All such functions share one budget (`set_budget`).
When it is full, what was used longest ago goes first. While the hand drags a number, every picture
asks for bodies that no other will ask for: so what has been asked for in one picture only may take
a quarter of the budget, and never pushes out what several have (segmented LRU; Karedla, Love &
Wherry, IEEE Computer 27(3), 1994). `next_picture` says where one ends.

What is let go is still found for as long as someone else holds it: what the stage shows stays.
"""

import os
import threading
import weakref
from collections import OrderedDict, deque
from collections.abc import Callable, Hashable
from contextlib import suppress
from dataclasses import dataclass, fields, is_dataclass
from functools import partial, update_wrapper
from typing import Any, Generic, ParamSpec, TypeVar, cast

import numpy as np
import shapely

LARGEST_DEFAULT_BYTES = 2_000_000_000
SHARE_OF_MACHINE = 0.25
# Of the budget, what only one picture has asked for.
PASSING_SHARE = 0.25
# What a value counts for at least: its key, its place in the lists.
LEAST_BYTES = 400

P = ParamSpec("P")
T = TypeVar("T")


def machine_bytes() -> int:
    """The machine's memory."""
    return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")


def default_budget() -> int:
    """Bytes: a quarter of the machine's memory, at most 2 GB."""
    return min(round(machine_bytes() * SHARE_OF_MACHINE), LARGEST_DEFAULT_BYTES)


def size_of(value: Any) -> int:
    """Bytes that a value holds: its arrays, and those of its parts; of other objects, what their
    `nbytes` says.

    >>> size_of(np.zeros(1000)) == 8000 + LEAST_BYTES
    True
    """
    return _bytes_in(value, set()) + LEAST_BYTES


# What counts for nothing beside arrays, and the names of a dataclass' fields, which are dear to look up.
_ATOMS = frozenset({bool, int, float, type(None)})
_NAMES: dict[type, tuple[str, ...]] = {}


def _bytes_in(value: Any, seen: set[int]) -> int:
    kind = type(value)
    if kind in _ATOMS or id(value) in seen:
        return 0
    seen.add(id(value))
    if kind is np.ndarray or isinstance(value, np.ndarray):
        return 0 if value.base is not None and id(value.base) in seen else int(value.nbytes)
    if kind is str or kind is bytes:
        return len(value)
    names = _NAMES.get(kind)
    if names is None and is_dataclass(kind):
        names = _NAMES[kind] = tuple(field.name for field in fields(kind))
    if names is not None:
        return sum([_bytes_in(getattr(value, name), seen) for name in names]) + 100
    if isinstance(value, (tuple, list)):
        return sum([_bytes_in(part, seen) for part in value]) + 8 * len(value)
    if isinstance(value, dict):
        return sum([_bytes_in(part, seen) for pair in value.items() for part in pair]) + 100 * len(value)
    if isinstance(value, shapely.Geometry):
        return 16 * int(shapely.get_num_coordinates(value)) + 200
    return int(getattr(value, "nbytes", 100))


class _Key:
    """What a value is kept by. Its hash is taken once: outlines and pieces take long to hash, and a look into
    all that is kept asks several times."""

    __slots__ = ("_hash", "arguments", "function")

    def __init__(self, function: object, arguments: Hashable):
        self.function, self.arguments = function, arguments
        self._hash = hash(arguments)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        if not (
            isinstance(other, _Key)
            and self.function is other.function
            and self._hash == other._hash
            and self.arguments == other.arguments
        ):
            return False
        # From now on both are one: the parts of a piece take long to compare with others that are equal.
        self.arguments = other.arguments
        return True


@dataclass
class _Entry:
    value: Any
    size: int
    picture: int


class _Shelf:
    """Entries of all functions, those of one picture (`passing`) and those of several (`lasting`),
    each in order of last use."""

    def __init__(self, budget: int):
        self.budget = budget
        self.picture = 0
        self.lock = threading.RLock()
        self.passing: OrderedDict[_Key, _Entry] = OrderedDict()
        self.lasting: OrderedDict[_Key, _Entry] = OrderedDict()
        self.bytes = {id(self.passing): 0, id(self.lasting): 0}

    def find(self, key: _Key) -> _Entry | None:
        with self.lock:
            entry = self.lasting.get(key)
            if entry is not None:
                self.lasting.move_to_end(key)
                return entry
            entry = self.passing.get(key)
            if entry is not None:
                if entry.picture == self.picture:
                    self.passing.move_to_end(key)
                else:
                    self._take(self.passing, key)
                    self._put(self.lasting, key, entry)
            return entry

    def add(self, key: _Key, value: Any, size: int, *, lasting: bool) -> None:
        entries, share = (self.lasting, 1 - PASSING_SHARE) if lasting else (self.passing, PASSING_SHARE)
        with self.lock:
            # One that alone is too large would push out all the others, and then go itself.
            if size <= share * self.budget and key not in self.lasting and key not in self.passing:
                self._put(entries, key, _Entry(value, size, self.picture))

    def drop(self, key: _Key) -> None:
        with self.lock:
            for entries in (self.passing, self.lasting):
                if key in entries:
                    self._take(entries, key)

    def shrink(self) -> None:
        with self.lock:
            for entries, most in (
                (self.passing, self.budget * PASSING_SHARE),
                (self.lasting, self.budget * (1 - PASSING_SHARE)),
            ):
                while entries and self.bytes[id(entries)] > most:
                    self._take(entries, next(iter(entries)))

    def _put(self, entries: OrderedDict[_Key, _Entry], key: _Key, entry: _Entry) -> None:
        entries[key] = entry
        self.bytes[id(entries)] += entry.size
        self.shrink()

    def _take(self, entries: OrderedDict[_Key, _Entry], key: _Key) -> None:
        self.bytes[id(entries)] -= entries.pop(key).size


_shelf = _Shelf(default_budget())


def set_budget(size: int) -> None:
    """Let all that is kept take at most so many bytes from now on."""
    _shelf.budget = size
    _shelf.shrink()


def bytes_kept() -> int:
    """How many bytes are kept now."""
    return sum(_shelf.bytes.values())


def next_picture() -> None:
    """A new picture begins: what is asked for again from now on is wanted by more than one."""
    _shelf.picture += 1


class Kept(Generic[P, T]):
    """A function whose results are kept, by its arguments, which must be hashable: all, or the latest so many
    of them. `misses` counts how often it was run."""

    def __init__(self, function: Callable[P, T], most: int | None = None):
        self._function = self.__wrapped__ = function
        self.misses = 0
        self._latest: deque[_Key] | None = None if most is None else deque(maxlen=most)
        # What has been let go but lives on elsewhere, where its type allows it.
        self._alive: weakref.WeakValueDictionary[_Key, Any] = weakref.WeakValueDictionary()
        update_wrapper(self, function)

    def __call__(self, *given: P.args, **named: P.kwargs) -> T:
        arguments = (given, tuple(sorted(named.items()))) if named else given
        key = _Key(self, arguments)
        entry = _shelf.find(key)
        if entry is not None:
            return cast(T, entry.value)
        value = self._alive.get(key)
        # What is asked for again after it was let go is wanted by more than one picture.
        again = value is not None
        if value is None:
            self.misses += 1
            value = self._function(*given, **named)
            with suppress(TypeError):  # tuples and numbers cannot be referred to weakly
                self._alive[key] = value
        if self._latest is not None:
            if len(self._latest) == self._latest.maxlen:
                _shelf.drop(self._latest[0])
            self._latest.append(key)
            # These are few and large: what they were made from counts for nothing beside them.
            size = size_of(value)
        else:
            size = size_of((given, named, value))
        _shelf.add(key, value, size, lasting=again)
        return cast(T, value)

    def remember(self, value: T, *given: P.args, **named: P.kwargs) -> None:
        """Keep a result that was made elsewhere, as if the function had been run with these arguments."""
        arguments = (given, tuple(sorted(named.items()))) if named else given
        _shelf.add(_Key(self, arguments), value, size_of((given, named, value)), lasting=False)

    def cache_clear(self) -> None:
        """Forget all results of this function."""
        self._alive.clear()
        with _shelf.lock:
            for key in [
                key for entries in (_shelf.passing, _shelf.lasting) for key in entries if key.function is self
            ]:
                _shelf.drop(key)


class Values(Generic[T]):
    """Values that are made elsewhere and kept by keys, within the common budget of bytes."""

    def __init__(self) -> None:
        self._alive: weakref.WeakValueDictionary[_Key, Any] = weakref.WeakValueDictionary()

    def put(self, key: Hashable, value: T) -> None:
        """Keep a value, of a type that can be referred to weakly."""
        self._alive[_Key(self, key)] = value
        _shelf.add(_Key(self, key), value, size_of((key, value)), lasting=False)

    def find(self, key: Hashable) -> T | None:
        """The value of a key, if it is still kept, or held by someone else."""
        entry = _shelf.find(_Key(self, key))
        return cast(T, entry.value) if entry is not None else self._alive.get(_Key(self, key))


def latest_kept(most: int) -> Callable[[Callable[P, T]], Kept[P, T]]:
    """Keep the latest so many of what a function gives, as `kept` does: of large results that are only asked
    for again while nothing changes, one after the other would take new memory."""
    return partial(Kept, most=most)


def kept(function: Callable[P, T]) -> Kept[P, T]:
    """Keep what a function gives, by its arguments, within the common budget of bytes."""
    return Kept(function)
