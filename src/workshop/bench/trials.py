"""Pieces on trial: made for a look, kept in memory for a while, never stored."""

from __future__ import annotations

from functools import lru_cache

from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece

__all__ = ["trial"]


@lru_cache(maxsize=32)
def trial(inputs: Inputs) -> Made:
    """The piece for these inputs. The turning view and its gauges ask for the same one in turn."""
    return make_piece(inputs)
