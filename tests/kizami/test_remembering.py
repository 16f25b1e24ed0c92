"""What is remembered stays within its bound in bytes, is made once, and changes no result."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from kizami import remembering
from kizami.remembering import bytes_remembered, remembered

KILO = 1024


@pytest.fixture
def memory(monkeypatch) -> remembering._Memory:
    """A memory of 100 kB in place of the process's own."""
    small = remembering._Memory(100 * KILO)
    monkeypatch.setattr(remembering, "_MEMORY", small)
    return small


def counting(size: int, made: list[int]):
    @remembered
    def zeros(number: int) -> np.ndarray:
        made.append(number)
        return np.zeros(size, dtype=np.uint8)

    return zeros


def test_what_was_asked_for_is_made_once_and_goes_when_there_is_no_room(memory) -> None:
    made: list[int] = []
    zeros = counting(30 * KILO, made)
    first = zeros(1)
    assert zeros(1) is first and made == [1]
    zeros(2), zeros(3)
    zeros(1)  # asked for last, so 2 goes
    zeros(4)
    assert memory.bytes <= 100 * KILO
    zeros(1), zeros(3), zeros(4)
    assert made == [1, 2, 3, 4]
    zeros(2)
    assert made[-1] == 2


def test_what_took_long_to_make_is_passed_over_once_more(memory, monkeypatch) -> None:
    made: list[int] = []
    zeros = counting(30 * KILO, made)
    clock = iter([0.0, 0.3, *range(1, 100)])
    monkeypatch.setattr(remembering.time, "perf_counter", lambda: next(clock) if not made[1:] else 1.0)
    zeros(1)  # takes 0.3 s
    zeros(2), zeros(3), zeros(4)  # no room for four: 1 is the oldest, and is spared
    assert memory.bytes <= 100 * KILO
    zeros(1)
    assert made == [1, 2, 3, 4]
    # It is spared once: two others later it is the oldest again, and goes.
    zeros(5), zeros(6), zeros(7)
    zeros(1)
    assert made == [1, 2, 3, 4, 5, 6, 7, 1]


def test_a_process_that_is_to_hold_less_lets_go_of_the_oldest(memory) -> None:
    made: list[int] = []
    zeros = counting(30 * KILO, made)
    zeros(1), zeros(2), zeros(3)
    remembering.hold_at_most(70 * KILO)
    assert memory.bytes <= 70 * KILO
    zeros(2), zeros(3)
    assert made == [1, 2, 3]
    zeros(1)
    assert made == [1, 2, 3, 1]


def test_what_is_larger_than_the_bound_is_made_every_time(memory) -> None:
    made: list[int] = []
    zeros = counting(200 * KILO, made)
    zeros(1), zeros(1)
    assert made == [1, 1] and memory.bytes == 0


def test_a_large_part_that_several_results_hold_counts_once(memory) -> None:
    body = np.zeros(60 * KILO, dtype=np.uint8)

    @remembered
    def named(number: int) -> tuple[int, np.ndarray]:
        return number, body

    kept = [named(number) for number in range(50)]
    assert all(named(number) is one for number, one in enumerate(kept))
    assert 60 * KILO < memory.bytes < 100 * KILO
    named.cache_clear()
    assert memory.bytes == 0


def test_clearing_one_function_leaves_the_others(memory) -> None:
    one: list[int] = []
    other: list[int] = []
    first, second = counting(KILO, one), counting(KILO, other)
    first(1), second(1)
    first.cache_clear()
    first(1), second(1)
    assert one == [1, 1] and other == [1]


def test_who_asks_at_the_same_time_waits_for_the_first(memory) -> None:
    made: list[int] = []

    @remembered
    def slow(number: int) -> object:
        made.append(threading.get_ident())
        time.sleep(0.05)
        return object()

    with ThreadPoolExecutor(8) as pool:
        results = set(pool.map(slow, [7] * 8))
    assert len(results) == 1 and len(made) == 1


def test_a_failure_is_raised_and_not_remembered(memory) -> None:
    calls: list[int] = []

    @remembered
    def fails_once(number: int) -> int:
        calls.append(number)
        if len(calls) == 1:
            raise ValueError("no")
        return number

    with pytest.raises(ValueError, match="no"):
        fails_once(3)
    assert fails_once(3) == 3 and calls == [3, 3]


def test_named_arguments_are_told_apart(memory) -> None:
    @remembered
    def power(base: float, *, by: float = 2.0) -> float:
        return base**by

    assert [power(3.0), power(3.0, by=3.0), power(3.0, by=3.0), power(3.0)] == [9.0, 27.0, 27.0, 9.0]


GROWTH = """
import sys
import manifold3d, numpy, shapely
from kizami.remembering import weight_of

def resident_bytes():
    return int(open("/proc/self/statm").read().split()[1]) * 4096

def solid(number):
    ball = manifold3d.Manifold.sphere(1.0 + number, 32)
    ball.num_tri()  # made only when something of it is asked
    return ball

kinds = {
    "array": lambda number: numpy.full(4096, number % 256, dtype=numpy.uint8),
    "outline": lambda number: shapely.Point(number, 0).buffer(1.0, quad_segs=64),
    "solid": solid,
}
thing = kinds[sys.argv[1]]
kept = [thing(number) for number in range(50)]  # the libraries' own first needs
before = resident_bytes()
kept += [thing(number) for number in range(50, 2050)]
grown = resident_bytes() - before
print(sum(weight_of(one).all_bytes for one in kept[50:]) / grown)
"""


@pytest.mark.parametrize("kind", ["array", "outline", "solid"])
def test_the_weight_is_about_what_a_process_grows_by(kind) -> None:
    told = subprocess.run([sys.executable, "-c", GROWTH, kind], capture_output=True, text=True, check=True)
    assert 0.7 < float(told.stdout) < 1.5


def test_the_process_s_own_memory_is_within_its_bound() -> None:
    assert 0 <= bytes_remembered() <= remembering.MOST_BYTES
