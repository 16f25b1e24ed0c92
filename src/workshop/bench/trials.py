"""Pieces on trial: made for a look, kept in memory for a while, never stored."""

from __future__ import annotations

from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece
from workshop.memory.made_once import MadeOnce

__all__ = ["trial"]

_MOST_BYTES = 64 * 1024 * 1024


def _bytes_of(made: Made) -> int:
    """Its solid is nearly all of it; the rest is some hundred kilobytes of outlines."""
    solid = made.solid
    return 200_000 + (solid.vertices.nbytes + solid.triangles.nbytes if solid is not None else 0)


_TRIALS: MadeOnce[Inputs, Made] = MadeOnce(make_piece, size_of=_bytes_of, most_bytes=_MOST_BYTES)


def trial(inputs: Inputs) -> Made:
    """The piece for these inputs. The turning view and its gauges ask for the same one at the same time."""
    return _TRIALS.get(inputs)
