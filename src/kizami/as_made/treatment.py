"""How lettering meets the body: a choice that can be changed at any time.

A treatment says what its lettering looks like in section: a list of levels, each an inward offset of
the outline and a height along the normal, from which the solid is made.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, field
from typing import Literal

from kizami.outlines.shrinking import Level
from kizami.tolerance import SAGITTA_MM

__all__ = [
    "CutOut",
    "Engraved",
    "InRecess",
    "Pierced",
    "Raised",
    "Scored",
    "Treatment",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Engraved:
    """Sunk into the body to a constant depth along the normal.

    Attributes
    ----------
    floor : “flat”; “pointed”, walls slanting at 45 degrees until they meet or reach the depth; “rounded”
    draft_deg : slant of the walls of a flat floor, the mouth being the drawn outline
    """

    depth_mm: float
    floor: Literal["flat", "pointed", "rounded"] = "flat"
    draft_deg: float = 0.0
    kind: Literal["engraved"] = field(default="engraved", init=False)

    @property
    def sinks(self) -> bool:
        """Material is taken away."""
        return True

    @property
    def layer(self) -> tuple[float, float]:
        """Heights between which material changes, mm along the outward normal."""
        return (-self.depth_mm, 0.0)

    @property
    def floor_below_mm(self) -> float:
        """How far into the wall the lettering reaches."""
        return self.depth_mm

    @property
    def inward_mm(self) -> float:
        """How far its walls and floor would like to move inward; a pointed floor goes on to its ridge."""
        return {"flat": self._lean_mm, "rounded": self.depth_mm, "pointed": 0.0}[self.floor]

    @property
    def _lean_mm(self) -> float:
        return self.depth_mm * math.tan(math.radians(self.draft_deg))

    def levels(self, most_inward_mm: float) -> tuple[Level, ...]:
        """From the mouth down. `most_inward_mm` bounds what may be lost of a stroke on either side."""
        depth = self.depth_mm
        if self.floor == "pointed":
            return (Level(inward_mm=0.0, height_mm=0.0), Level(inward_mm=depth, height_mm=-depth))
        if self.floor == "rounded":
            radius = min(depth, most_inward_mm)
            return _quarter(radius, -(depth - radius), -depth, first=Level(inward_mm=0.0, height_mm=0.0))
        lean = min(self._lean_mm, most_inward_mm)
        return (Level(inward_mm=0.0, height_mm=0.0), Level(inward_mm=lean, height_mm=-depth))


@dataclass(frozen=True, kw_only=True, slots=True)
class Raised:
    """Proud of the body, with a root sunk into it so that the two are one.

    Attributes
    ----------
    edge : upper edges are “sharp”, have a “chamfer” or are “rounded” by `edge_mm`, never by so much
        that a stroke loses its face
    draft_deg : slant of the walls, the foot being the drawn outline
    """

    height_mm: float
    root_mm: float
    edge: Literal["sharp", "chamfer", "rounded"] = "sharp"
    edge_mm: float = 0.0
    draft_deg: float = 0.0
    kind: Literal["raised"] = field(default="raised", init=False)

    @property
    def sinks(self) -> bool:
        """Material is added."""
        return False

    @property
    def layer(self) -> tuple[float, float]:
        """Heights between which material changes, mm along the outward normal."""
        return (0.0, self.height_mm)

    @property
    def floor_below_mm(self) -> float:
        """How far into the wall the lettering reaches: the root."""
        return self.root_mm

    @property
    def inward_mm(self) -> float:
        """How far its walls and edges would like to move inward."""
        soft = 0.0 if self.edge == "sharp" else min(self.edge_mm, self.height_mm)
        return soft + (self.height_mm - soft) * math.tan(math.radians(self.draft_deg))

    def levels(self, most_inward_mm: float) -> tuple[Level, ...]:
        """From the root up."""
        top, soft = self.height_mm, 0.0
        if self.edge != "sharp":
            soft = min(self.edge_mm, most_inward_mm, top)
        lean = min((top - soft) * math.tan(math.radians(self.draft_deg)), max(0.0, most_inward_mm - soft))
        foot = [Level(inward_mm=0.0, height_mm=-self.root_mm)]
        if lean:
            foot.append(Level(inward_mm=0.0, height_mm=0.0))
        shoulder = Level(inward_mm=lean, height_mm=top - soft)
        if not soft:
            return (*foot, shoulder)
        if self.edge == "chamfer":
            return (*foot, shoulder, Level(inward_mm=lean + soft, height_mm=top))
        return (*foot, *_quarter(soft, top - soft, top, first=shoulder))


@dataclass(frozen=True, kw_only=True, slots=True)
class InRecess:
    """Raised lettering that stands in a recess of its own.

    Attributes
    ----------
    depth_mm : of the recess
    height_mm : of the lettering above the floor of the recess
    margin_mm : of the recess around the lettering
    root_mm : how far the letters reach below the floor of the recess
    """

    depth_mm: float
    height_mm: float
    margin_mm: float
    root_mm: float = 0.3
    kind: Literal["in recess"] = field(default="in recess", init=False)

    @property
    def sinks(self) -> bool:
        """The letters themselves stand."""
        return False

    @property
    def layer(self) -> tuple[float, float]:
        """Heights between which the letters stand, mm along the outward normal."""
        return (-self.depth_mm, self.height_mm - self.depth_mm)

    @property
    def floor_below_mm(self) -> float:
        """How far into the wall recess and roots reach."""
        return self.depth_mm + self.root_mm


@dataclass(frozen=True, kw_only=True, slots=True)
class Pierced:
    """Cut right through the wall."""

    kind: Literal["pierced"] = field(default="pierced", init=False)

    @property
    def sinks(self) -> bool:
        """Material is taken away."""
        return True


@dataclass(frozen=True, kw_only=True, slots=True)
class Scored:
    """A mark on the surface without depth, carried in drawings for the machine that makes it."""

    kind: Literal["scored"] = field(default="scored", init=False)

    @property
    def sinks(self) -> bool:
        """Nothing changes."""
        return True


@dataclass(frozen=True, kw_only=True, slots=True)
class CutOut:
    """The lettering is the piece: a wall of this thickness with nothing behind it."""

    thickness_mm: float
    kind: Literal["cut-out"] = field(default="cut-out", init=False)

    @property
    def sinks(self) -> bool:
        """What stands is the lettering."""
        return False

    @property
    def layer(self) -> tuple[float, float]:
        """Heights between which the piece stands."""
        return (0.0, self.thickness_mm)


def proud_mm(treatment: Treatment) -> float:
    """How far lettering stands above the face; below 0 where it stays under it."""
    return treatment.layer[1] if isinstance(treatment, Raised | InRecess) else 0.0


Treatment = Engraved | Raised | InRecess | Pierced | Scored | CutOut


def _quarter(radius: float, start: float, end: float, *, first: Level) -> tuple[Level, ...]:
    """A quarter circle from a wall at height `start` over to a face at `end`, after the wall's foot."""
    span = end - start
    levels = [first] if first.height_mm != start or first.inward_mm else []
    # r (1 - cos(a / 2)) for a chord over the angle a.
    half = math.acos(max(0.0, 1.0 - SAGITTA_MM / radius)) if radius > 0 else math.pi / 2.0
    steps = max(2, math.ceil(math.pi / 4.0 / half))
    for step in range(steps + 1):
        angle = math.pi / 2.0 * step / steps
        inward = first.inward_mm + radius * (1.0 - math.cos(angle))
        levels.append(Level(inward_mm=inward, height_mm=start + span * math.sin(angle)))
    unique = [levels[0]]
    unique += [b for a, b in itertools.pairwise(levels) if a != b]
    return tuple(unique)
