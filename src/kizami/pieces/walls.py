"""Names on products, as they stand on a wall: the piece, what was done to it, what holds it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from dataclasses import replace
from functools import partial
from multiprocessing import get_context

import shapely

from kizami.as_made.treatment import CutOut
from kizami.checks.finding import Level
from kizami.drawing.looking import look_at
from kizami.drawing.picture import Ground, picture_png, seen_size_mm
from kizami.drawing.wall import OnWall
from kizami.lettering.layout import Layout
from kizami.outlines.curves import bodies_of
from kizami.pieces.forecast import tried
from kizami.pieces.make import make_piece
from kizami.products.product import Product

__all__ = ["MOST_ON_WALL", "hung", "wall_of"]

MOST_ON_WALL = 1000
#: Pieces that one process hangs before it tells how far it is.
_PORTION = 5


def hung(product: Product, name: str, *, size: str = "", px_a_mm: float | None = None) -> OnWall:
    """One name on one product, made whole with every check.

    Parameters
    ----------
    px_a_mm : of a picture of the finished piece; None for a drawing of its lettered face
    """
    laid = make_piece(tried(product, name, size=size).inputs)
    area, layout = laid.laid_out.area, laid.laid_out.layout
    failing = next((f for f in laid.findings if f.level is Level.FAILS), None)
    # A name piece has nothing behind it, only room.
    bare = isinstance(product.treatment, CutOut) and area.standing is None
    grounds = [area.standing] if area.standing is not None else [] if bare else [area.outline]
    on_wall = OnWall(
        name=name.replace("\n", " / "),
        said=_said(layout),
        held="" if failing is None else failing.message,
        ground=bodies_of(*grounds) if grounds else shapely.MultiPolygon(),
        letters=layout.outlines,
    )
    if px_a_mm is None or laid.solid is None:
        return on_wall
    look = look_at(area)
    wide, high = seen_size_mm(laid.solid, look)
    size_px = (
        min(round(wide * px_a_mm) + 2, _MOST_PX),
        min(round(high * px_a_mm) + 2, _MOST_PX),
    )
    seen = picture_png(
        laid.solid,
        look=look,
        colour=product.made_of.colour,
        size_px=size_px,
        ground=Ground.of(product.treatment),
        margin_px=1,
    )
    return replace(on_wall, seen=seen, seen_mm=(wide, high))


#: Of one piece's picture, either way.
_MOST_PX = 2000


def _said(layout: Layout) -> str:
    """Its height, and the steps that changed how it looks."""
    steps = [step.said for step in layout.steps if step.name != "natural size"]
    return "; ".join([f"{layout.height_mm:.2f} mm", *steps])


def wall_of(
    asked: Sequence[tuple[Product, str]],
    *,
    jobs: int = 1,
    px_a_mm: float | None = None,
    progress: Callable[[int, int, int], None] | None = None,
) -> tuple[OnWall, ...]:
    """Every name on its product, in order.

    Parameters
    ----------
    jobs : processes
    px_a_mm : see `hung`
    progress : told how many are done, of how many, and how many are held
    """
    portions = [tuple(asked[i : i + _PORTION]) for i in range(0, len(asked), _PORTION)]
    pieces: list[OnWall] = []
    with ExitStack() as stack:
        run: Callable[..., Iterator[list[OnWall]]] = map
        if jobs > 1 and len(portions) > 1:
            run = stack.enter_context(ProcessPoolExecutor(jobs, mp_context=get_context("spawn"))).map
        for portion in run(partial(_hung_each, px_a_mm=px_a_mm), portions):
            pieces.extend(portion)
            if progress is not None:
                progress(len(pieces), len(asked), sum(bool(piece.held) for piece in pieces))
    return tuple(pieces)


def _hung_each(portion: Sequence[tuple[Product, str]], *, px_a_mm: float | None) -> list[OnWall]:
    return [hung(product, name, px_a_mm=px_a_mm) for product, name in portion]
