"""What a piece in a run was held to when it was made."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from kizami.processes import Limits
from kizami.standards import shipped_standards

__all__ = ["limits_of"]


def limits_of(facts: Mapping[str, Any]) -> Limits | None:
    """The limits of a piece from its facts; of one made before facts had them, those that ship.

    >>> limits_of({"process": "resin"}).of("gap-width"), limits_of({"process": "gone"})
    (0.25, None)
    >>> limits_of({"process": "resin", "limits": {"gap-width": 0.4}}).of("gap-width")
    0.4
    """
    process = shipped_standards().processes.get(str(facts.get("process", "")))
    own = facts.get("limits")
    if own:
        size = process.limits.size_mm if process else (0.0, 0.0, 0.0)
        return Limits(table=tuple(sorted(own.items())), size_mm=size)
    return process.limits if process else None
