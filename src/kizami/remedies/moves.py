"""Single changes of a setting that may cure what is wrong with a piece, each from what a finding measured."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from kizami.checks.finding import Finding, Level
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.pieces.make import Made
from kizami.products.product import Word
from kizami.remedies.remedy import Patient
from kizami.setting.setting import BOUNDS, MOST_LINES, Setting, depth_of

__all__ = ["Move", "moves_for"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Move:
    """One change.

    Attributes
    ----------
    kind : what of the setting it changes; two of one kind are no combination
    said : in words
    change : puts it on a setting
    """

    kind: str
    said: str
    change: Callable[[Setting], Setting]


#: Which changes may cure which checks.
_CURES: dict[str, tuple[str, ...]] = {
    "lowest-height": ("tighter", "narrower", "lines", "second", "typeface"),
    "fits-area": ("lower", "tighter", "narrower", "lines", "second", "typeface"),
    "edge-gap": ("lower", "narrower", "lines", "second"),
    "stroke-width": ("thicker", "larger", "typeface"),
    "neck-width": ("thicker", "larger", "typeface", "looser"),
    "standing-thickness": ("thicker", "larger", "typeface"),
    "gap-width": ("looser", "larger", "thinner", "typeface", "lines"),
    "slot-width": ("looser", "larger", "thinner", "typeface"),
    "openings-kept": ("larger", "thinner", "looser", "typeface"),
    "read-back": ("looser", "larger", "thinner", "typeface"),
    "middle-width": ("larger", "thinner", "typeface"),
    "web-width": ("thinner", "larger", "looser", "typeface"),
    "departure": ("larger", "typeface", "thinner"),
    "closed-middles": ("tie", "typeface"),
    "loose-parts": ("tie", "tighter", "thicker", "typeface"),
    "one-body": ("tie", "tighter", "thicker", "typeface"),
    "islands": ("tie", "tighter", "typeface"),
    "floor-left": ("shallower",),
    "wall-thickness": ("shallower", "lower"),
    "edge-thickness": ("lower", "shallower"),
    "lettering-depth": ("deeper", "thicker", "larger"),
    "measured-depth": ("deeper", "thicker", "larger"),
    "edge-made": ("thicker", "larger", "typeface"),
    "draft-made": ("thicker", "larger", "typeface"),
    "missing-character": ("typeface",),
    "letters-in-shape": ("shape", "typeface"),
    "letter-stretch": ("shape", "typeface"),
    "loop-hold": ("thicker", "larger"),
    "sharp-point": ("thicker", "typeface", "larger"),
}
_TRACKING = (0.03, 0.06, 0.1, 0.16)
_NARROW = (0.92, 0.85, 0.78)
_LARGER = (1.08, 1.18, 1.35)
_LOWER = (0.94, 0.86, 0.75)
#: Strokes change by this at least, and by this for what is not measured in mm.
_STEP_MM, _WEIGHT_MM = 0.01, 0.04
#: Where a wording may be broken into lines.
_BREAKS = re.compile(r"\s+|(?<=-)(?=\w)")


def moves_for(patient: Patient, made: Made) -> list[Move]:
    """The changes that are worth a trial, for the gravest failing check first; none twice."""
    ways: list[list[Move]] = []
    asked: set[tuple[str, str]] = set()
    for finding in made.findings:
        if finding.level is not Level.FAILS:
            continue
        for kind in _CURES.get(finding.code, ()):
            # Of several findings of one check the worst asks for most.
            if (finding.code, kind) not in asked:
                asked.add((finding.code, kind))
                ways.append(list(_MOVES[kind](patient, made, finding)))
    # The first of every way, then the second of every way, and so on: no way uses up the time of the others.
    found: dict[str, Move] = {}
    for move in itertools.chain.from_iterable(itertools.zip_longest(*ways)):
        if move is not None:
            found.setdefault(move.said, move)
    return list(found.values())


def _tracking_now(patient: Patient) -> float:
    return patient.inputs().product.plan.tracking


def _looser(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    now, height = _tracking_now(patient), made.laid_out.layout.height_mm
    # What the finding asks for, and somewhat more: neighbours share it.
    asked = (finding.limit - finding.measured) / height if height > 0.0 else 0.0
    for by in dict.fromkeys((round(max(0.01, asked * 1.15), 3), *_TRACKING)):
        yield from _tracked(now + by, "looser")


def _tighter(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    for by in _TRACKING[:3]:
        yield from _tracked(_tracking_now(patient) - by, "tighter")


def _tracked(tracking: float, how: str) -> Iterator[Move]:
    value = round(tracking, 3)
    low, high = BOUNDS["tracking"]
    if low <= value <= high:
        yield Move(
            kind="tracking",
            said=f"letters set {how}: {value:+.2f} of the height between them",
            change=lambda s, value=value: replace(s, tracking=value),  # type: ignore[misc]
        )


def _narrower(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    now = patient.inputs().product.plan.narrowest
    for share in _NARROW:
        if share < now:
            yield Move(
                kind="narrowest",
                said=f"letters condensed to {share * 100:.0f} % of their width at least",
                change=lambda s, share=share: replace(s, narrowest=share),  # type: ignore[misc]
            )


def _lines(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    words = len(_BREAKS.split(patient.base.wording.strip()))
    now = patient.inputs().product.plan.most_lines
    for count in range(now + 1, min(MOST_LINES, words) + 1):
        yield Move(
            kind="lines",
            said=f"broken into {count} lines at most",
            change=lambda s, count=count: replace(s, most_lines=count),  # type: ignore[misc]
        )


def _second(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    if patient.inputs().second:
        yield Move(
            kind="second",
            said="without the second wording",
            change=lambda s: replace(s, without_second=True),
        )


def _thicker(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield from _weighed(patient, finding, (1.05, 1.6, 2.5))


def _thinner(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield from _weighed(patient, finding, (-1.1, -2.0))


def _weighed(patient: Patient, finding: Finding, shares: tuple[float, ...]) -> Iterator[Move]:
    """Half of what is missing on each side of a stroke, and more; told against strokes as drawn."""
    missing = (finding.limit - finding.measured) / 2.0 if finding.unit == "mm" else _WEIGHT_MM
    low, high = BOUNDS["thicken_by_mm"]
    for share in shares:
        value = round((patient.setting.thicken_by_mm or 0.0) + max(_STEP_MM, missing) * share, 2)
        if low <= value <= high and value:
            yield Move(
                kind="weight",
                said=f"strokes {abs(value):.2f} mm {'thicker' if value > 0.0 else 'thinner'} on each side",
                change=lambda s, value=value: replace(s, thicken_by_mm=value),  # type: ignore[misc]
            )


def _larger(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield from _scaled(made, _LARGER, "higher")


def _lower(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield from _scaled(made, _LOWER, "lower")


def _scaled(made: Made, shares: tuple[float, ...], how: str) -> Iterator[Move]:
    for share in shares:
        value = round(made.laid_out.layout.height_mm * share / 0.05) * 0.05
        low, high = BOUNDS["height_mm"]
        if low <= value <= high:
            yield Move(
                kind="height",
                said=f"set {how}, {value:.2f} mm",
                change=lambda s, value=value: replace(s, height_mm=round(value, 2)),  # type: ignore[misc]
            )


def _typeface(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    letters = {ord(c) for c in patient.base.wording if not c.isspace()}
    own = patient.inputs().product.typeface
    for code in patient.base.product.choices(Word.TYPEFACE):
        if code == own or code not in shipped_typeface_codes():
            continue
        face = shipped_typeface(code)
        if letters <= face.characters:
            yield Move(
                kind="typeface",
                said=f"set in {face.name}",
                change=lambda s, code=code: replace(s, typeface=code),  # type: ignore[misc]
            )


def _tie(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    now = patient.inputs().product.soundness.one_piece
    for tie in ("bridges", "base bar"):
        if tie != now:
            yield Move(
                kind="tie",
                said=f"loose parts tied by {'a base bar' if tie == 'base bar' else tie}",
                change=lambda s, tie=tie: replace(s, one_piece=tie),  # type: ignore[misc]
            )


def _deeper(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield from _deep(patient, finding, 1.0, "deeper")


def _shallower(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield from _deep(patient, finding, -1.0, "shallower")


def _deep(patient: Patient, finding: Finding, sign: float, how: str) -> Iterator[Move]:
    now = depth_of(patient.inputs().product.treatment)
    if now is None or finding.unit != "mm":
        return
    for share in (1.02, 1.4):
        value = round(now + sign * abs(finding.limit - finding.measured) * share, 2)
        low, high = BOUNDS["depth_mm"]
        if low <= value <= high:
            yield Move(
                kind="depth",
                said=f"{value:.2f} mm deep or proud, {how}",
                change=lambda s, value=value: replace(s, depth_mm=value),  # type: ignore[misc]
            )


def _shape(patient: Patient, made: Made, finding: Finding) -> Iterator[Move]:
    yield Move(
        kind="shape",
        said="set straight instead of filling its form",
        change=lambda s: replace(s, shape="straight", shape_amount=0.0),
    )


_MOVES: dict[str, Callable[[Patient, Made, Finding], Iterator[Move]]] = {
    "tighter": _tighter, "looser": _looser, "narrower": _narrower, "lines": _lines, "second": _second,
    "thicker": _thicker, "thinner": _thinner, "larger": _larger, "lower": _lower, "typeface": _typeface,
    "tie": _tie, "deeper": _deeper, "shallower": _shallower, "shape": _shape,
}  # fmt: skip
