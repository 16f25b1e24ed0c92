"""What kinds of findings there are: their permanent codes, names on screens, units and how grave they are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from kizami.checks.finding import Sense, Severity

__all__ = ["KINDS", "CheckKind", "kind_of"]


@dataclass(frozen=True, kw_only=True, slots=True)
class CheckKind:
    """One kind of finding.

    Attributes
    ----------
    code : permanent, listed in docs/checks.md
    title : on screens
    unit : “mm”, “%”, ... or "" for a count
    sense : which side of the limit is good
    severity : how grave it is when it fails
    is_strict : it is right or it is not, so it never passes closely
    on_solid : it is found on the finished piece, not on its layout
    """

    code: str
    title: str
    unit: str
    sense: Sense
    severity: Severity
    is_strict: bool = False
    on_solid: bool = False


def _kind(  # one row of the table
    code: str,
    title: str,
    unit: str,
    sense: Sense,
    severity: Severity,
    *,
    is_strict: bool = False,
    on_solid: bool = False,
) -> CheckKind:
    return CheckKind(
        code=code,
        title=title,
        unit=unit,
        sense=sense,
        severity=severity,
        is_strict=is_strict,
        on_solid=on_solid,
    )


_LEAST, _MOST, _JUST = Sense.AT_LEAST, Sense.AT_MOST, Sense.EXACTLY
_CANNOT, _FAILS, _UGLY = Severity.CANNOT_BE_MADE, Severity.WILL_FAIL, Severity.UGLY

_ROWS = (
    # The words.
    _kind("wording-settled", "Open questions", "", _MOST, _CANNOT, is_strict=True),
    _kind("missing-character", "Missing characters", "", _MOST, _CANNOT, is_strict=True),
    _kind("wording-present", "Letters", "", _LEAST, _CANNOT, is_strict=True),
    # How they lie.
    _kind("fits-area", "Outside its room", "mm", _MOST, _CANNOT, is_strict=True),
    _kind("edge-gap", "Gap to the edge", "mm", _LEAST, _FAILS),
    _kind("lowest-height", "Lettering height", "mm", _LEAST, _UGLY),
    _kind("letters-in-shape", "Letters in the outline", "", _MOST, _UGLY, is_strict=True),
    _kind("letters-apart", "Added between letters", "mm", _MOST, _UGLY, is_strict=True),
    _kind("letter-stretch", "Stretch of a letter", "", _MOST, _UGLY),
    # How fine they are.
    _kind("stroke-width", "Thinnest stroke", "mm", _LEAST, _FAILS),
    _kind("neck-width", "Thinnest neck", "mm", _LEAST, _FAILS),
    _kind("gap-width", "Narrowest gap", "mm", _LEAST, _FAILS),
    _kind("web-width", "Narrowest web", "mm", _LEAST, _FAILS),
    _kind("middle-width", "Smallest closed middle", "mm", _LEAST, _FAILS),
    _kind("not-measured", "Could not be measured", "", _MOST, _CANNOT, is_strict=True),
    # How deep they are.
    _kind("lettering-depth", "Depth", "mm", _LEAST, _FAILS),
    _kind("floor-left", "Floor left", "mm", _LEAST, _FAILS),
    _kind("edge-made", "Softened edge", "mm", _LEAST, _UGLY, is_strict=True),
    _kind("draft-made", "Slope of the walls", "°", _LEAST, _FAILS, is_strict=True),
    # What was done to them.
    _kind("departure", "Departure from the drawn letter", "mm", _MOST, _UGLY),
    _kind("openings-kept", "Openings closed", "", _MOST, _UGLY, is_strict=True),
    _kind("read-back", "Letters that read otherwise", "", _MOST, _FAILS, is_strict=True),
    _kind("loose-parts", "Loose parts", "", _MOST, _CANNOT, is_strict=True),
    _kind("loops-level", "Loops out of level", "mm", _MOST, _UGLY),
    _kind("loop-place", "Loop from its end", "%", _MOST, _UGLY),
    _kind("loop-hold", "Hold of a loop", "mm", _LEAST, _FAILS),
    _kind("closed-middles", "Middles that drop out", "", _MOST, _CANNOT, is_strict=True),
    _kind("logo-detail", "Logo, edge true to", "mm", _MOST, _UGLY),
    _kind("logo-as-sent", "Logo, left out", "", _MOST, _CANNOT, is_strict=True),
    # Whether what was built is what was to be built.
    _kind("made", "Made", "", _JUST, _CANNOT, is_strict=True, on_solid=True),
    _kind("built", "Built", "", _JUST, _CANNOT, is_strict=True, on_solid=True),
    _kind("letters-built", "Letters not built", "", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("one-body", "Separate parts", "", _JUST, _CANNOT, is_strict=True, on_solid=True),
    _kind("through-holes", "Openings right through", "", _JUST, _CANNOT, is_strict=True, on_solid=True),
    _kind("right-volume", "Volume off by", "%", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("letters-proven", "Letters not as set", "", _MOST, _CANNOT, is_strict=True, on_solid=True),
    # What the finished piece measures.
    _kind("piece-size", "Size", "mm", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("unit-slip", "Longest side", "mm", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("wall-thickness", "Thinnest wall", "mm", _LEAST, _FAILS, on_solid=True),
    _kind("edge-thickness", "Thinnest edge", "mm", _LEAST, _FAILS, on_solid=True),
    _kind("standing-thickness", "Thinnest standing part", "mm", _LEAST, _FAILS, on_solid=True),
    _kind("slot-width", "Narrowest slot", "mm", _LEAST, _FAILS, on_solid=True),
    _kind("measured-depth", "Depth by letter", "mm", _LEAST, _FAILS, on_solid=True),
    _kind("measured-twice", "Two measures differ by", "mm", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("cavities", "Closed cavities", "", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("slivers", "Slivers", "", _MOST, _FAILS, is_strict=True, on_solid=True),
    _kind("trapped-volume", "Never drains", "mm3", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("sharp-point", "Sharpest point", "°", _LEAST, _UGLY, on_solid=True),
    _kind("undercut", "Undercut against the pull", "mm2", _MOST, _CANNOT, is_strict=True, on_solid=True),
    _kind("draft-held", "Steepest wall", "°", _LEAST, _FAILS, on_solid=True),
    _kind("islands", "Parts printed into the air", "", _MOST, _FAILS, is_strict=True, on_solid=True),
    _kind("overhang", "Printed over air", "mm2", _MOST, _FAILS, on_solid=True),
    _kind("hangs-below", "Hangs below its loops", "mm", _LEAST, _FAILS, on_solid=True),
    _kind("tilt", "Tilt when it hangs", "°", _MOST, _UGLY, on_solid=True),
)

#: By code.
KINDS: Mapping[str, CheckKind] = MappingProxyType({kind.code: kind for kind in _ROWS})


def kind_of(code: str) -> CheckKind:
    """The kind with this code.

    Raises
    ------
    KeyError : there is none
    """
    return KINDS[code]
