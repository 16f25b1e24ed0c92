"""Results that take long to make, remembered within one bound in bytes for the whole process.

`functools.lru_cache` counts entries, and an entry may be a thin band or a customer's scan of a million
facets. Here what is remembered is weighed as it comes in, and what was not asked for longest goes when the
sum is beyond the bound; what took long to make is passed over a few times before. Several threads that ask
for the same result at once wait for the first of them.
"""

from __future__ import annotations

import sys
import time
from collections import Counter, OrderedDict
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, fields, is_dataclass
from functools import cache, wraps
from threading import Lock, local
from typing import Any, Generic, ParamSpec, TypeVar, cast

import manifold3d as m3
import numpy as np
import shapely

__all__ = [
    "MOST_BYTES",
    "Remembered",
    "Weight",
    "bytes_remembered",
    "hold_at_most",
    "last_remembered",
    "remembered",
    "weight_of",
]

_P = ParamSpec("_P")
_T = TypeVar("_T")
_Asked = TypeVar("_Asked")

#: Of all results together.
MOST_BYTES = 64 * 1024 * 1024
#: What a corner of an outline and a facet of a solid take, by the growth of a process over 2,000 of each.
_A_CORNER, _A_FACET = 26, 225
#: What takes so long to make is spared once, twice as long twice, and so on.
_LONG_S, _MOST_SPARED = 0.25, 8
#: From here on what several results hold in common is worth knowing: a body, say, and its areas.
_LARGE = 16 * 1024


@dataclass(frozen=True, slots=True)
class Weight:
    """What a value keeps alive, in bytes.

    Attributes
    ----------
    own : of all small parts
    large : of each large part, by its identity
    """

    own: int
    large: Mapping[int, int]

    @property
    def all_bytes(self) -> int:
        """Of the value by itself."""
        return self.own + sum(self.large.values())


def weight_of(thing: object) -> Weight:
    """About what a value keeps alive; what it holds twice is counted once.

    Objects that are neither values of this program nor of its libraries for shapes count for themselves
    alone, not for what hangs on them: a typeface is there as long as the program runs.

    >>> weight_of(np.zeros(100)).own >= 800
    True
    >>> weight_of((np.zeros(10_000), 1)).large.values()
    dict_values([80112])
    """
    seen: set[int] = set()
    waiting: list[object] = [thing]
    own, large = 0, {}
    while waiting:
        one = waiting.pop()
        if id(one) in seen:
            continue
        seen.add(id(one))
        size = sys.getsizeof(one)
        kind = type(one)
        names = () if kind in _PLAIN else _names_of(cast(Hashable, kind))
        if names is not None:
            waiting.extend([getattr(one, name) for name in names])
        elif isinstance(one, np.ndarray):
            size += one.nbytes if one.base is not None else 0
        elif isinstance(one, shapely.Geometry):
            size += _A_CORNER * int(shapely.get_num_coordinates(one))
        elif isinstance(one, m3.Manifold):
            size += _A_FACET * one.num_tri()
        elif isinstance(one, (tuple, list, set, frozenset)):
            waiting.extend(one)
        elif isinstance(one, Mapping):
            waiting.extend(one.keys())
            waiting.extend(one.values())
        if size >= _LARGE:
            large[id(one)] = size
        else:
            own += size
    return Weight(own, large)


#: Most of what is weighed is one of these, and nothing hangs on it.
_PLAIN = frozenset((float, int, bool, str, bytes, type(None)))


@cache
def _names_of(kind: Any) -> tuple[str, ...] | None:
    """The fields of a kind of value; None where it is no such value."""
    return tuple(field.name for field in fields(kind)) if is_dataclass(kind) else None


class _Call:
    """A call with its arguments, whose hash is worked out once."""

    __slots__ = ("_hash", "of")

    def __init__(self, of: tuple[Hashable, ...]) -> None:
        self.of = of
        self._hash = hash(of)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Call) and self.of == other.of


class _Memory:
    """Results by call, the longest unasked first."""

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self.bytes = 0
        self._lock = Lock()
        self._kept: OrderedDict[_Call, tuple[Any, Weight]] = OrderedDict()
        #: How often each of those that took long to make is passed over yet.
        self._spared: dict[_Call, int] = {}
        #: How many results hold a large part.
        self._held: Counter[int] = Counter()
        self._making: dict[_Call, Lock] = {}

    def get(self, call: _Call, make: Callable[[], _T]) -> _T:
        """The result of a call. What making it raises is raised to each who asks, and nothing is kept."""
        with self._lock:
            entry = self._kept.get(call)
            if entry is not None:
                self._kept.move_to_end(call)
                return cast(_T, entry[0])
            turn = self._making.setdefault(call, Lock())
        with turn:
            with self._lock:
                entry = self._kept.get(call)
            if entry is not None:
                return cast(_T, entry[0])
            try:
                began = time.perf_counter()
                result = make()
                took_s = time.perf_counter() - began
                weight = weight_of((call.of, result))
                with self._lock:
                    self._keep(call, result, weight, took_s)
            finally:
                # Only now: whoever asks from here on finds what is kept, or begins anew.
                with self._lock:
                    self._making.pop(call, None)
            return result

    def _keep(self, call: _Call, result: object, weight: Weight, took_s: float) -> None:
        if weight.all_bytes > self.most_bytes or call in self._kept:
            return
        self._kept[call] = (result, weight)
        if took_s >= _LONG_S:
            self._spared[call] = min(_MOST_SPARED, int(took_s / _LONG_S))
        self.bytes += weight.own
        for part, size in weight.large.items():
            self._held[part] += 1
            if self._held[part] == 1:
                self.bytes += size
        self._make_room()

    def hold_at_most(self, most_bytes: int) -> None:
        """Be content with less."""
        with self._lock:
            self.most_bytes = most_bytes
            self._make_room()

    def _make_room(self) -> None:
        while self.bytes > self.most_bytes:
            self._drop(self._oldest())

    def _oldest(self) -> _Call:
        """What was not asked for longest, but for what is spared once more."""
        while self._spared.get(oldest := next(iter(self._kept))):
            self._spared[oldest] -= 1
            self._kept.move_to_end(oldest)
        return oldest

    def _drop(self, call: _Call) -> None:
        _, weight = self._kept.pop(call)
        self._spared.pop(call, None)
        self.bytes -= weight.own
        for part, size in weight.large.items():
            self._held[part] -= 1
            if not self._held[part]:
                del self._held[part]
                self.bytes -= size

    def forget(self, function: object) -> None:
        """Let go of what one function made."""
        with self._lock:
            for call in [call for call in self._kept if call.of[0] is function]:
                self._drop(call)


_MEMORY = _Memory(MOST_BYTES)


def bytes_remembered() -> int:
    """Of all results together, at most `MOST_BYTES`."""
    return _MEMORY.bytes


def hold_at_most(most_bytes: int) -> None:
    """Let this process remember no more than so much, as one of several that each do a part."""
    _MEMORY.hold_at_most(most_bytes)


class Remembered(Generic[_P, _T]):
    """A pure function whose results are remembered; its arguments must be hashable."""

    def __init__(self, function: Callable[_P, _T]) -> None:
        self.__wrapped__ = function
        self.__module__ = function.__module__
        self.__name__ = function.__name__
        self.__doc__ = function.__doc__

    def __call__(self, *args: _P.args, **named: _P.kwargs) -> _T:
        of = (self, args, tuple(named.items())) if named else (self, args)
        return _MEMORY.get(_Call(of), lambda: self.__wrapped__(*args, **named))

    def cache_clear(self) -> None:
        """Make the results anew when they are asked for again."""
        _MEMORY.forget(self)


def remembered(function: Callable[_P, _T]) -> Remembered[_P, _T]:
    """Remember what a pure function of hashable values returns, within the bound of the process."""
    return Remembered(function)


def last_remembered(function: Callable[[_Asked], _T]) -> Callable[[_Asked], _T]:
    """Remember what a pure function made of the very thing that it was last asked about, in each thread.

    For what is asked several times in a row and is too large to be kept longer.

    >>> twice = last_remembered(lambda numbers: [2 * number for number in numbers])
    >>> some = [1, 2]
    >>> twice(some) is twice(some), twice([1, 2]) is twice(some)
    (True, False)
    """
    last = local()

    @wraps(function)
    def ask(of: _Asked) -> _T:
        asked, made = getattr(last, "kept", (None, None))
        if asked is not of or of is None:
            # What was kept goes first: there is never more than one.
            last.kept = (None, None)
            made = function(of)
            last.kept = (of, made)
        return cast(_T, made)

    return ask
