"""Shapes made ready for many questions, for one thread alone.

GEOS answers many questions about one shape faster once the shape is prepared. What it prepares is built at
the first question and changed by each further one, and shapely lets go of Python's lock meanwhile: two
threads that ask one prepared shape at once end the process. A shape may be anybody's, for what is remembered
is shared by all threads; so nothing is ever prepared in place, and each thread asks a copy of its own.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import TypeVar, cast

import shapely

__all__ = ["MOST", "prepared"]

_Shape = TypeVar("_Shape", bound=shapely.Geometry)

#: Copies that a thread keeps: as many as one piece asks about by turns.
MOST = 64


class _Copies(threading.local):
    """Each with what it is a copy of, which so keeps its identity; the longest unasked first."""

    def __init__(self) -> None:
        self.kept: OrderedDict[int, tuple[shapely.Geometry, shapely.Geometry]] = OrderedDict()


_COPIES = _Copies()


def prepared(shape: _Shape) -> _Shape:
    """The same shape, ready for many questions of the thread that asks.

    Not to be kept in anything that another thread may be given.

    >>> square = shapely.box(0, 0, 1, 1)
    >>> ready = prepared(square)
    >>> shapely.is_prepared([square, ready]).tolist(), ready.equals(square), prepared(square) is ready
    ([False, True], True, True)
    """
    kept = _COPIES.kept
    entry = kept.get(id(shape))
    if entry is not None:
        kept.move_to_end(id(shape))
        return cast(_Shape, entry[1])
    # Setting what a shape has already is shapely's way to a copy.
    copy: _Shape = shapely.set_srid(shape, shapely.get_srid(shape))
    shapely.prepare(copy)  # noqa: TID251
    kept[id(shape)] = (shape, copy)
    if len(kept) > MOST:
        kept.popitem(last=False)
    return copy
