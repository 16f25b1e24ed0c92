"""Pieces of a set share one lettering height: that of the member that is hardest to fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import lay_out
from kizami.pieces.lines import Line
from kizami.remembering import remembered

__all__ = ["set_height_mm", "with_set_heights"]


def set_height_mm(members: Sequence[Inputs]) -> float | None:
    """The height that every member of a set can have.

    Members that fit only below their lowest height, or not at all, are held for a person anyway and
    do not drag the others down.

    Returns
    -------
    mm, or None when no member fits or there is only one
    """
    if len(members) < 2:
        return None
    heights = []
    for inputs in members:
        height = _height_alone(replace(inputs, height_cap_mm=None))
        if height >= inputs.as_set.product.plan.lowest_height_mm - 1e-9:
            heights.append(height)
    return min(heights, default=None)


@remembered
def _height_alone(inputs: Inputs) -> float:
    """Height that a member would have on its own, 0 when it does not fit. Every member of a set asks
    for all the others, so it is worked out once."""
    layout = lay_out(inputs).layout
    return layout.height_mm if layout.fits else 0.0


def with_set_heights(lines: Sequence[Line]) -> list[Line]:
    """Lines of a list, those of a set with the height that they share. Order is kept.

    A set is named within an order, and only lines of one product can share a height.
    """
    groups: dict[tuple[str, str, str], list[int]] = {}
    for place, line in enumerate(lines):
        if line.row.set_name:
            key = (line.row.order, line.row.set_name.casefold(), line.inputs.product.code)
            groups.setdefault(key, []).append(place)
    result = list(lines)
    for places in groups.values():
        height = set_height_mm([lines[place].inputs for place in places])
        for place in places:
            line = lines[place]
            result[place] = replace(line, inputs=replace(line.inputs, height_cap_mm=height))
    return result
