"""A drawing that could not be used as an outline, with the place of what is wrong with it."""

from __future__ import annotations

from collections.abc import Sequence

from kizami.drawing.paths import number
from kizami.drawing.unrolled import Drawing

__all__ = ["fault_drawing"]

#: Of the longer side of the drawing: the ring around the place, and the room around all of it.
_RING, _ROOM = 0.035, 0.06


def fault_drawing(
    lines: Sequence[Sequence[tuple[float, float]]], at: tuple[float, float] | None, *, px: tuple[float, float]
) -> Drawing | None:
    """The lines as they were read and a ring at the place, within a box; None for nothing.

    Parameters
    ----------
    lines : y up, in any unit
    at : the place, or None
    """
    points = [point for line in lines for point in line]
    if not points:
        return None
    low_x, high_x = min(x for x, _ in points), max(x for x, _ in points)
    low_y, high_y = min(y for _, y in points), max(y for _, y in points)
    longest = max(high_x - low_x, high_y - low_y) or 1.0
    room = _ROOM * longest
    wide, high = high_x - low_x + 2.0 * room, high_y - low_y + 2.0 * room
    scale = min(px[0] / wide, px[1] / high)

    def place(point: tuple[float, float]) -> tuple[str, str]:
        return number((point[0] - low_x + room) * scale), number((high_y - point[1] + room) * scale)

    drawn = "".join(f"M{' L'.join(' '.join(place(point)) for point in line)}" for line in lines)
    content = f'<path class="k-outline" d="{drawn}" fill="none"/>'
    if at is not None:
        x, y = place(at)
        content += f'<circle class="k-fault" cx="{x}" cy="{y}" r="{number(_RING * longest * scale)}"/>'
    return Drawing(view_box=(0.0, 0.0, wide * scale, high * scale), content=content)
