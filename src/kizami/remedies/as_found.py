"""A piece as it was found: what failed of it, and how it stood. A search for what cures it begins there."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from kizami.checks.finding import Finding, Level
from kizami.checks.kinds import KINDS
from kizami.lettering.layout import FitStep, Layout
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut, drawn_layouts
from kizami.pieces.make import Made

__all__ = ["AsFound", "found_before"]

#: Steps that come after a wording was fitted, by name: they make sound what was drawn.
_MAKES_SOUND = frozenset({"weight", "one piece", "slits", "necks"})
_ON_SOLID = frozenset(code for code, kind in KINDS.items() if kind.on_solid)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class AsFound:
    """What is known of a piece as it is set.

    Attributes
    ----------
    findings : what was measured, worst first
    layout : how its wording stands
    others : what stands on further areas
    """

    findings: tuple[Finding, ...]
    layout: Layout
    others: tuple[LaidOut, ...] = ()

    @classmethod
    def of(cls, made: Made) -> AsFound:
        """Of a piece that was just made."""
        laid_out = made.laid_out
        return cls(findings=made.findings, layout=laid_out.layout, others=laid_out.others)


def found_before(
    inputs: Inputs, findings: Sequence[Finding], steps: Iterable[FitStep], *, height_mm: float
) -> AsFound | None:
    """A piece of which it is on record how it was found: drawn again, but neither made sound nor measured.

    What its drawing is held for is cured first, so what was measured on the solid counts only where the
    drawing holds. None where the record does not tell how it stood: it has to be made then.

    Parameters
    ----------
    inputs : that the record was made of, by their fingerprint
    findings, steps, height_mm : as recorded
    """
    if inputs.product.also:
        return None
    layout = _drawn(inputs, tuple(step for step in steps if step.name not in _MAKES_SOUND), height_mm)
    if layout is None or layout.is_empty:
        return None
    on_drawing = tuple(f for f in findings if f.code not in _ON_SOLID)
    is_drawn_to_fail = any(f.level is Level.FAILS for f in on_drawing)
    return AsFound(findings=on_drawing if is_drawn_to_fail else tuple(findings), layout=layout)


def _drawn(inputs: Inputs, steps: tuple[FitStep, ...], height_mm: float) -> Layout | None:
    """The wording as these steps set it; None where none of its ways of setting took them."""
    try:
        drawn = (layout for layout in drawn_layouts(inputs) if layout.steps == steps)
        return next((one for one in drawn if abs(one.height_mm - height_mm) < 1e-9), None)
    except Exception:  # noqa: BLE001 - making it holds the piece for it, and tells it
        return None
