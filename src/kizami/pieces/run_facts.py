"""What a run will ask of a piece, told while its solid is at hand."""

from __future__ import annotations

from typing import Any

from kizami.pieces.make import Made
from kizami.solids.feeding import feeds_of
from kizami.solids.measured import Measured
from kizami.solids.pattern import pattern_of
from kizami.solids.thickness import thinnest_through

__all__ = ["run_facts"]

#: Processes whose pieces hang on a tree.
_CAST = ("lost-wax",)


def run_facts(made: Made) -> dict[str, Any]:
    """Facts of a piece as plain data; lettering and feeds of ready ones alone, on their pattern.

    Returns
    -------
    process, material : their codes
    allowance_percent : by which its pattern is larger
    lettering_mm2 : see `Solid.lettering_mm2`
    thinnest_mm : see `kizami.solids.thickness.thinnest_through`: files of a run are measured against it
    code_on : where its ticket code stands while it is made
    feeds : places where metal may be fed in, see `kizami.solids.feeding.Feed.to_table`
    """
    product = made.laid_out.inputs.product
    found: dict[str, Any] = {
        "process": product.process.code,
        "material": product.material,
        "allowance_percent": product.allowance_percent,
        "lettering_mm2": None,
        "thinnest_mm": None,
        "code_on": product.code_on,
        "feeds": [],
    }
    if made.solid is None or made.stage != "ready":
        return found
    pattern = pattern_of(made.solid, product.allowance_percent)
    found["lettering_mm2"] = [round(x, 3) for x in pattern.lettering_mm2]
    thin = thinnest_through(Measured(vertices=pattern.vertices, triangles=pattern.triangles))
    found["thinnest_mm"] = None if thin is None else round(thin.width_mm, 4)
    if product.process.code in _CAST:
        found["feeds"] = [feed.to_table() for feed in feeds_of(pattern)]
    return found
