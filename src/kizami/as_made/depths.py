"""How deep each part is cut, or how high it stands, where it is shallowest."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import Engraved, InRecess, Raised

__all__ = ["Depth", "depths"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Depth:
    """The shallowest place of a part.

    Attributes
    ----------
    depth_mm : along the normal of the face, above 0 for both ways
    u_mm, v_mm : where
    part : number of the part
    why : “pointed” where walls meet before the whole depth is reached, “away” where the face turns away
        from the pull, "" where the whole depth is there
    """

    depth_mm: float
    u_mm: float
    v_mm: float
    part: int
    why: str = ""


def depths(made: AsMade) -> tuple[Depth, ...]:
    """The shallowest place of every part, the shallowest first; none for what has no depth of its own.

    A pointed floor has walls at 45 degrees: a stroke is half as deep as it is wide, and no deeper than was
    asked. Heights along a pull are turned into depths along the normal by the cosine between the two; past
    a right angle nothing of them is left.
    """
    if not isinstance(made.treatment, Engraved | Raised | InRecess):
        return ()
    return tuple(sorted(_each(made), key=lambda d: (d.depth_mm, d.part)))


def _each(made: AsMade) -> Iterator[Depth]:
    treatment = made.treatment
    assert isinstance(treatment, Engraved | Raised | InRecess)
    low, high = treatment.layer
    whole = high - low
    for number, part in enumerate(made.parts):
        corners = shapely.get_coordinates(part.outline)
        facing = made.scale.facing(corners)
        at = int(np.argmin(facing))
        found = Depth(
            depth_mm=whole * max(float(facing[at]), 0.0),
            u_mm=float(corners[at, 0]),
            v_mm=float(corners[at, 1]),
            part=number,
            why="away" if facing[at] < 1.0 - 1e-9 else "",
        )
        if made.is_pointed and part.mark is not None:
            stroke = made.layout.narrow[part.mark].stroke
            if stroke is not None and stroke.width / 2.0 < found.depth_mm:
                found = Depth(
                    depth_mm=stroke.width / 2.0, u_mm=stroke.x, v_mm=stroke.y, part=number, why="pointed"
                )
        yield found
