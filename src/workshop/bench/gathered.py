"""Findings as the gauges show them: one gauge for a check, with every other place under it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

__all__ = ["gathered"]


def gathered(findings: Iterable[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """The worst finding of each check, area and level, in their order; “also” lists the others, with what
    they are about and what was measured there.

    >>> row = {"code": "gap-width", "level": "fails", "area": "", "unit": "mm", "cause": []}
    >>> letter = {"kind": "letter", "text": "d"}
    >>> one, = gathered([{**row, "measured": 0.1}, {**row, "measured": 0.2, "cause": [letter]}])
    >>> one["measured"], one["also"]
    (0.1, [{'where': '“d”', 'measured': 0.2, 'unit': 'mm'}])
    """
    rows: dict[tuple[str, str, str], dict[str, Any]] = {}
    for finding in findings:
        key = (finding["code"], finding.get("area", ""), finding["level"])
        first = rows.get(key)
        if first is None:
            rows[key] = {**finding, "also": []}
            continue
        # Pieces that were made before causes were kept name none.
        where = " and ".join(_named(cause) for cause in finding.get("cause") or ())
        first["also"].append(
            {"where": where, "measured": finding["measured"], "unit": finding.get("unit", "")}
        )
    return list(rows.values())


def _named(cause: Mapping[str, Any]) -> str:
    return f"“{cause['text']}”" if cause.get("text") else f"the {cause['kind']}"
