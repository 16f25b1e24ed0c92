"""A blank as one piece is set: another thickness or width than its product's."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from kizami.blanks.band_ring import BandRingSpec
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.round_things import Coin, DomedDisc
from kizami.blanks.signet import SignetSpec
from kizami.errors import AdjustmentError
from kizami.products.blank_tables import BLANK_TABLES
from kizami.products.product import FixedBlank, SizedBlank

__all__ = ["blank_as_set", "thickness_of", "width_of"]

_AnyBlank = SizedBlank | FixedBlank

#: What a kind of blank calls its thickness, and its width where a wider one is the same thing to its owner.
_THICKNESS: Mapping[type, str] = {
    BandRingSpec: "wall_mm", SignetSpec: "wall_mm", Plate: "thickness_mm", Coin: "thickness_mm",
    RingFrame: "thickness_mm", DomedDisc: "edge_mm",
}  # fmt: skip
_WIDTH: Mapping[type, str] = {BandRingSpec: "width_mm"}


def thickness_of(blank: _AnyBlank) -> float | None:
    """How thick a blank is, or its wall; None for those that have no one thickness."""
    return _measure(blank, _THICKNESS)


def width_of(blank: _AnyBlank) -> float | None:
    """How wide a band is; None for what is no band."""
    return _measure(blank, _WIDTH)


def _measure(blank: _AnyBlank, names: Mapping[type, str]) -> float | None:
    name = names.get(type(blank))
    return None if name is None else float(getattr(blank, name))


def blank_as_set(blank: _AnyBlank, *, thickness_mm: float | None, width_mm: float | None) -> _AnyBlank:
    """The blank with other measures; None leaves its own, and so does a measure that it has not.

    Raises
    ------
    AdjustmentError : there can be no such blank
    """
    changed = {
        names[type(blank)]: value
        for names, value in ((_THICKNESS, thickness_mm), (_WIDTH, width_mm))
        if value is not None and type(blank) in names
    }
    if not changed:
        return blank
    other: _AnyBlank = replace(blank, **changed)  # type: ignore[arg-type]
    table = next(table for table in BLANK_TABLES.values() if table.makes is type(blank))
    said = table.rule(other)
    if said:
        raise AdjustmentError(f"There can be no such blank: {said}. Choose another thickness or width.")
    return other
