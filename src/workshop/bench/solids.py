"""The piece in space, as the turning view takes it: whole, or cut open."""

from __future__ import annotations

from typing import Any

from kizami.drawing.cut_open import cut_open
from kizami.drawing.shown import shown, shown_bytes, stl_corners
from kizami.formats.glb import glb_mesh
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut
from kizami.pieces.make import Made
from workshop.making.made_files import file_of

__all__ = ["cut_areas", "cut_of", "shown_of", "shown_of_kept"]


def shown_of(made: Made) -> bytes | None:
    """A piece on trial; None for one without a solid."""
    solid = made.solid
    return None if solid is None else shown_bytes(shown(solid.vertices, solid.triangles, solid.is_lettering))


def shown_of_kept(inputs: Inputs, files: dict[str, Any]) -> bytes | None:
    """A kept piece, from its file; None for one without a solid.

    Parameters
    ----------
    files : as its revision has them
    """
    coloured = file_of(inputs, "glb", files)
    if coloured is not None:
        return shown_bytes(shown(*glb_mesh(coloured)))
    pattern = file_of(inputs, "stl", files)
    if pattern is None:
        return None
    vertices, triangles = stl_corners(pattern)
    # The file may be that of a pattern, which is larger than the piece.
    return shown_bytes(shown(vertices / (1.0 + inputs.product.allowance_percent / 100.0), triangles))


def cut_areas(laid_out: LaidOut) -> list[str]:
    """The areas that a piece may be cut across, where there are several."""
    return [one.area.name for one in laid_out.every_area] if laid_out.others else []


def cut_of(made: Made, area: str = "") -> dict[str, Any]:
    """The piece cut open across its deepest letter, as the page draws it; a word why, where it is not.

    Parameters
    ----------
    area : the name of the one that is meant; the wording's own where there is none of this name
    """
    solid, own = made.solid, made.laid_out
    laid = next((one for one in own.others if one.area.name == area), own)
    found = None if solid is None else cut_open(laid.made, solid)
    if found is None:
        return {"said": "There is no letter here to cut across."}
    text = laid.layout.text
    letter = "" if found.letter is None or found.letter >= len(text) else f" across “{text[found.letter]}”"
    measured = ", ".join(f"{length.mm:.2f} mm {length.title}" for length in found.lengths)
    where = f" on the {laid.area.name}" if own.others else ""
    return {
        "said": f"Cut{where}{letter}: {measured}",
        "normal": found.normal.round(6).tolist(),
        "outward": found.outward.round(6).tolist(),
        "at": found.at.round(4).tolist(),
        "points": found.points.round(4).tolist(),
        "triangles": found.triangles.tolist(),
        "lengths": [
            {"title": one.title, "mm": round(one.mm, 6), "start": one.start, "end": one.end}
            for one in found.lengths
        ],
    }
