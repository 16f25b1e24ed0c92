"""Several threads may ask about one shape at once: what is prepared is each thread's own."""

from __future__ import annotations

import subprocess
import sys
import threading

import pytest
import shapely

from kizami.prepared import MOST, prepared

#: Four threads begin at once with the same thing, again and again. A process that ends by a signal is what
#: shapes prepared in place come to; the first round of the first case was enough for that.
TOGETHER = """
import hashlib, sys, threading

def together(asked, rounds):
    found = []
    for number in range(rounds):
        start = threading.Barrier(4)
        def ask(number=number):
            start.wait()
            found.append((number, asked(number)))
        threads = [threading.Thread(target=ask) for _ in range(4)]
        [thread.start() for thread in threads]
        [thread.join() for thread in threads]
    return found
"""
ONE_SHAPE = """
import numpy, shapely
from kizami.prepared import prepared

turn = numpy.linspace(0.0, 2.0 * numpy.pi, 20_000, endpoint=False)
ring = numpy.column_stack((numpy.cos(turn), numpy.sin(turn))) * (1.0 + 0.1 * numpy.sin(40.0 * turn))[:, None]
shapes = [shapely.Polygon(ring) for _ in range(40)]
points = shapely.points(numpy.random.default_rng(1).uniform(-1.0, 1.0, (200, 2)))

def asked(number):
    shape = prepared(shapes[number])
    inside, near = shapely.contains(shape, points), shapely.dwithin(shape, points, 0.01)
    return int(inside.sum()), int(near.sum())

found = together(asked, len(shapes))
assert len(found) == 160 and len(set(answer for _, answer in found)) == 1, found
"""
PIECES = """
from kizami.cli import catalogue_at
from kizami.pieces.batch import piece_files
from kizami.pieces.forecast import tried
from kizami.pieces.make import make_piece
from launch.state import REPOSITORY

products = catalogue_at(REPOSITORY / "demo" / "products.toml").products
codes = ["choir-ring", "shore-bead", "moon-disc", "ledger-ticket", "buoy-frame", "berth-sign"]

def asked(number):
    inputs = tried(products[codes[number // 2]], ("Otto", "Ivy")[number % 2]).inputs
    files = piece_files(make_piece(inputs), title="x")
    return hashlib.sha256(b"".join(files[kind] for kind in sorted(files))).hexdigest()

found = together(asked, 2 * len(codes))
assert len(found) == 48 and len(set(found)) == 12, found
"""


@pytest.mark.parametrize("script", [pytest.param(ONE_SHAPE, id="shape"), pytest.param(PIECES, id="pieces")])
def test_threads_that_ask_at_once_all_get_the_same_answer(script: str) -> None:
    done = subprocess.run(
        [sys.executable, "-X", "faulthandler", "-c", TOGETHER + script],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-2000:]


def test_a_shape_itself_is_never_prepared_and_the_copy_is_one_thread_s() -> None:
    shape = shapely.Point(0, 0).buffer(1.0)
    mine = prepared(shape)
    others: list[shapely.Geometry] = []
    thread = threading.Thread(target=lambda: others.append(prepared(shape)))
    thread.start(), thread.join()
    assert not shapely.is_prepared(shape) and shapely.is_prepared(mine) and shapely.is_prepared(others[0])
    assert prepared(shape) is mine and others[0] is not mine and mine.equals(others[0])


def test_only_so_many_are_kept_and_another_shape_is_never_taken_for_one() -> None:
    first = shapely.box(0, 0, 1, 1)
    ready = prepared(first)
    for number in range(3 * MOST):
        # Each is let go of at once, so that the next may well lie at its place in memory.
        assert prepared(shapely.box(0, 0, 1, 2 + number)).bounds == (0, 0, 1, 2 + number)
    assert prepared(first) is not ready and prepared(first).equals(first)
