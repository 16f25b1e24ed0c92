"""Gauges and notches, drawn for pages."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import template
from django.utils.safestring import SafeString, mark_safe

from kizami.checks.finding import Sense, said
from kizami.drawing.gauge import gauge_drawing

register = template.Library()

#: Notches cut for each stage: set, checked, in a run, made, sent.
_NOTCHES = {"new": 0, "held": 1, "ready": 2, "in run": 3, "made": 4, "sent": 5}


@register.filter
def svg(content: str) -> SafeString:
    """Drawing content from the core, which escapes every text that it puts in."""
    return mark_safe(content)  # noqa: S308


@register.simple_tag
def gauge(finding: dict[str, Any]) -> SafeString:
    """A finding's gauge."""
    drawing = gauge_drawing(
        measured=finding["measured"],
        limit=finding["limit"],
        sense=Sense(finding["sense"]),
        level=finding["level"],
    )
    return mark_safe(  # noqa: S308 - numbers only
        f'<svg class="gauge" viewBox="{drawing.view_box_text}" aria-hidden="true">{drawing.content}</svg>'
    )


@register.filter
def amount(value: float, unit: str) -> str:
    """A measured value with its unit: mm to two decimals, counts whole."""
    if unit == "":
        return f"{value:g}"
    return f"{value:.2f} {unit}"


@register.filter
def in_one_line(words: str) -> str:
    """Words that may stand in several lines, where there is room for one: the line ends are shown."""
    return words.replace("\n", " ⏎ ")


@register.filter
def measured(finding: Mapping[str, Any]) -> str:
    """What a finding measured, with as many decimals as tell it from its limit."""
    if finding["unit"] == "":
        return f"{finding['measured']:g}"
    return f"{said(finding['measured'], finding['limit'])} {finding['unit']}"


@register.simple_tag
def notches(stage: str) -> SafeString:
    """The tally cut into a ticket's left edge: it says where a piece stands."""
    cuts = "".join(f"V{9 + 9 * i}L7 {13 + 9 * i}L0 {17 + 9 * i}" for i in range(_NOTCHES.get(stage, 0)))
    return mark_safe(  # noqa: S308
        f'<span class="notches" aria-hidden="true"><svg width="10" height="2000">'
        f'<path d="M10 0H0{cuts}V2000H10Z"/></svg></span>'
    )


@register.filter
def at(table: dict[str, object], key: str) -> object:
    """What a table holds under a key, or ""."""
    return table.get(key, "")


@register.filter
def plain(value: float) -> str:
    """A number as it is typed: without needless digits."""
    return f"{value:.10g}" if isinstance(value, int | float) else ""


@register.filter
def metals(parts: tuple[tuple[str, float], ...]) -> str:
    """An alloy's metals with their shares by weight."""
    return ", ".join(f"{metal} {100 * share:g} %" for metal, share in parts)


@register.filter
def unlocalised(value: object) -> str:
    """A number as form fields want it, whatever the language; "" for none."""
    return "" if value in ("", None) else f"{value}"


#: Which field of the bench does what a finding asks for; the wording, where it is for the words to change.
_LEADS = {
    "stroke-width": "set-thicken_by_mm", "neck-width": "set-thicken_by_mm",
    "standing-thickness": "set-thicken_by_mm",
    "gap-width": "set-tracking", "slot-width": "set-tracking", "web-width": "set-tracking",
    "middle-width": "set-lowest_mm", "departure": "set-lowest_mm", "openings-kept": "set-lowest_mm",
    "read-back": "set-tracking", "floor-left": "set-depth_mm", "wall-thickness": "set-depth_mm",
    "lettering-depth": "set-depth_mm", "measured-depth": "set-depth_mm", "edge-gap": "set-height_mm",
    "edge-thickness": "set-height_mm", "loose-parts": "set-one_piece", "one-body": "set-one_piece",
    "closed-middles": "set-one_piece", "islands": "set-one_piece", "letters-in-shape": "set-shape",
    "letters-apart": "set-times", "letter-stretch": "set-shape", "missing-character": "wording",
    "sharp-point": "set-gaps",
    "edge-made": "set-thicken_by_mm", "draft-made": "set-thicken_by_mm", "undercut": "set-treatment",
    "overhang": "set-depth_mm", "slivers": "set-height_mm",
}  # fmt: skip


@register.filter
def leads(code: str) -> str:
    """The field that what a finding asks for is done with."""
    return _LEADS.get(code, "wording")
