"""Plain rows, as one lays pieces by hand: what every other way of packing is measured against."""

from __future__ import annotations

from collections.abc import Sequence

from kizami.runs.laying import Ground, Item, Place

__all__ = ["lay_in_rows"]


def lay_in_rows(items: Sequence[Item], ground: Ground) -> list[Place]:
    """Pieces by the boxes around them, left to right and row upon row, until one finds no room."""
    low_x, low_y, high_x, high_y = ground.room
    x, y, row = low_x, low_y, 0.0
    turn = ground.turns_deg[0]
    places: list[Place] = []
    for item in items:
        left, bottom, right, top = item.shape.turned(turn).bounds
        width, depth = right - left, top - bottom
        if x + width > high_x + 1e-9:
            x, y, row = low_x, y + row + ground.gap_mm, 0.0
        if x + width > high_x + 1e-9 or y + depth > high_y + 1e-9:
            break
        places.append(Place(key=item.key, x_mm=x - left, y_mm=y - bottom, turn_deg=turn))
        x, row = x + width + ground.gap_mm, max(row, depth)
    return places
