"""One piece of a run, with its files and where it lies."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from kizami.runs.coding import CodeOn, Tab
from kizami.runs.laying import Place
from kizami.surfaces.protocol import FloatArray

__all__ = ["LaidPiece", "facts_of", "turn_about_z"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class LaidPiece:
    """A piece on a bed.

    Attributes
    ----------
    key : its ticket code
    wording : what stands on it
    shape_key : equal for equal pieces
    turn, shift : from the piece's axes to where it lies with its corner at the origin
    place : where it lies on the bed
    read : gives a file of the piece by its extension; raises RunError where it is lost
    facts : of when it was made: volume_mm3, weight_g, fingerprint, allowance_percent, thinnest_mm, process,
        limits, see `kizami.runs.held_to`, looser: where its product lets more pass than its process holds, or
        "", and all_the_same: why it is made although a check fails, or None
    code_on, tab : where it carries its code
    hangs : on a tree, so that turn and shift hang it up instead of laying it down
    """

    key: str
    wording: str
    shape_key: str
    turn: FloatArray
    shift: FloatArray
    place: Place
    read: Callable[[str], bytes]
    facts: dict[str, object] = field(default_factory=dict)
    code_on: CodeOn = CodeOn.NOWHERE
    tab: Tab | None = None
    hangs: bool = False

    @property
    def title(self) -> str:
        """Code and wording in one line."""
        words = " ".join(self.wording.split())
        return f"{self.key} {words}".strip()

    @property
    def to_bed(self) -> tuple[FloatArray, FloatArray]:
        """Matrix (3, 3) and shift (3,) that put the piece's own points onto the bed."""
        turn = turn_about_z(self.place.turn_deg)
        at = np.array([self.place.x_mm, self.place.y_mm, self.place.z_mm])
        return turn @ self.turn, turn @ self.shift + at


_FACTS = (
    "volume_mm3", "weight_g", "fingerprint", "allowance_percent", "thinnest_mm", "process", "all_the_same",
    "limits", "looser",
)  # fmt: skip


def facts_of(record: Mapping[str, Any], *, level: int = 0) -> dict[str, object]:
    """What of a piece's facts goes into the tables of a run.

    Parameters
    ----------
    level : of a tree, from 1 below; 0 for others
    """
    return {name: record.get(name) for name in _FACTS} | ({"level": level} if level else {})


def turn_about_z(turn_deg: float) -> FloatArray:
    """Matrix of an anticlockwise turn, seen from above."""
    a = np.radians(turn_deg)
    return np.array([[np.cos(a), -np.sin(a), 0.0], [np.sin(a), np.cos(a), 0.0], [0.0, 0.0, 1.0]])
