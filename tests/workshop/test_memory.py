"""What is remembered: bounded by bytes, made once however many ask."""

from __future__ import annotations

import threading
import time

import pytest

from workshop.memory.made_once import MadeOnce


def test_it_is_made_once_however_many_ask_at_the_same_time() -> None:
    made: list[int] = []

    def make(key: int) -> bytes:
        time.sleep(0.05)
        made.append(key)
        return bytes(10)

    kept = MadeOnce(make, size_of=len, most_bytes=1000)
    threads = [threading.Thread(target=kept.get, args=(n % 3,)) for n in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(made) == [0, 1, 2]


def test_bytes_are_bounded_and_what_was_asked_for_lately_stays() -> None:
    made: list[int] = []
    kept = MadeOnce(lambda key: made.append(key) or bytes(100), size_of=len, most_bytes=350)
    for key in (1, 2, 3, 1, 4):
        kept.get(key)
    assert kept.bytes_kept == 300
    made.clear()
    for key in (1, 4, 2):
        kept.get(key)
    assert made == [2]


def test_what_is_larger_than_all_room_is_made_every_time() -> None:
    made: list[int] = []
    kept = MadeOnce(lambda key: made.append(key) or bytes(1000), size_of=len, most_bytes=350)
    assert len(kept.get(1)) == len(kept.get(1)) == 1000
    assert made == [1, 1] and kept.bytes_kept == 0


def test_a_failure_is_told_to_each_and_not_remembered() -> None:
    answers = iter([ValueError("no"), b"yes"])

    def make(_: int) -> bytes:
        answer = next(answers)
        if isinstance(answer, Exception):
            raise answer
        return answer

    kept = MadeOnce(make, size_of=len, most_bytes=100)
    with pytest.raises(ValueError, match="no"):
        kept.get(1)
    assert kept.get(1) == b"yes"
