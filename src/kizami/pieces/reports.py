"""What happened to every row of a list: report.json for programs, report.csv for people."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

import kizami
from kizami.checks.finding import finding_table
from kizami.formats.tables import csv_bytes
from kizami.lettering.layout import FitStep, Layout
from kizami.pieces.lines import Line
from kizami.pieces.make import Made
from kizami.pieces.run_facts import run_facts
from kizami.wording.order_list import SetAside

__all__ = ["piece_record", "report_csv", "report_json", "said_of"]


def piece_record(line: Line, made: Made) -> dict[str, Any]:
    """Facts about one piece as plain data, the same for every piece of a line."""
    layout, solid = made.laid_out.layout, made.solid
    return {
        "row": line.row.row,
        "order": line.row.order,
        "line": line.row.line,
        "product": line.inputs.product.code,
        "size": str(line.inputs.size) if line.inputs.size else "",
        "size_inferred": bool(line.inputs.size and line.inputs.size.inferred),
        "wording": line.wording.text,
        "wording_original": line.wording.original,
        "wording_changes": [change.said for change in line.wording.changes],
        "proposal": line.proposal,
        "may_be": list(line.settled.candidates),
        "typeface": made.laid_out.inputs.face.name,
        "finish": line.inputs.product.finish,
        "logo": line.row.logo,
        "set": line.row.set_name,
        "set_height_mm": line.inputs.height_cap_mm,
        "stage": made.stage,
        "height_mm": layout.height_mm,
        "fit_steps": [said_of(s) for s in layout.steps],
        "departure": _departure(layout),
        "further_areas": [
            {
                "area": part.area.name,
                "wording": part.layout.text,
                "height_mm": part.layout.height_mm,
                "fit_steps": [said_of(s) for s in part.layout.steps],
                "departure": _departure(part.layout),
            }
            for part in made.laid_out.others
        ],
        "findings": [finding_table(f) for f in made.findings],
        "volume_mm3": round(solid.volume_mm3, 3) if solid else None,
        "weight_g": round(made.weight_g, 3) if made.weight_g is not None else None,
        "due": line.row.due.isoformat() if line.row.due else "",
        "rush": line.row.rush,
        **run_facts(made),
        "size_mm": [round(x, 3) for x in solid.size_mm] if solid else None,
        "bounding_box_mm": [round(x, 3) for x in solid.bounds_mm] if solid else None,
        "triangles": len(solid.triangles) if solid else 0,
        "fingerprint": made.fingerprint,
    }


def _departure(layout: Layout) -> dict[str, float]:
    """How far letters are from how they are drawn: the largest distance of an outline, and of the area."""
    return {
        "largest_mm": round(layout.departure_mm, 4),
        "area_percent": round(100.0 * layout.area_change, 2),
    }


def said_of(step: FitStep) -> dict[str, Any]:
    """A step of a fit plan as plain data."""
    return {"name": step.name, "said": step.said, "height_mm": step.height_mm}


def report_json(
    pieces: Sequence[dict[str, Any]], set_aside: Sequence[SetAside], *, notes: Sequence[str] = ()
) -> bytes:
    """The whole report. It holds no time and no path, so that equal runs give equal bytes.

    Parameters
    ----------
    notes : what was decided in reading the list
    """
    stages = [p["stage"] for p in pieces]
    head = {
        "kizami": kizami.__version__,
        "counts": {
            "pieces": len(pieces),
            "ready": stages.count("ready"),
            "held": stages.count("held"),
            "set aside": len(set_aside),
        },
        "notes": list(notes),
    }
    aside = [{"row": s.row, "reason": s.reason, "cells": list(s.cells)} for s in set_aside]
    # A line for each piece: as quick to find in a diff as in the list, and soon written.
    parts = [_line(head)[1:-1], f'"pieces": {_lines(pieces)}', f'"set aside": {_lines(aside)}']
    return ("{\n" + ",\n".join(parts) + "\n}\n").encode()


def _lines(rows: Sequence[dict[str, Any]]) -> str:
    return "[\n" + ",\n".join(map(_line, rows)) + "\n]" if rows else "[]"


def _line(data: dict[str, Any]) -> str:
    return json.dumps(data, ensure_ascii=False)


_FIXED = (
    "row", "order", "line", "piece", "stage", "product", "size", "wording", "height mm", "fit steps",
    "volume mm3", "weight g", "x mm", "y mm", "z mm", "pattern larger by %", "fingerprint", "files", "reason",
    "looser limits", "row as received",
)  # fmt: skip


def report_csv(pieces: Sequence[dict[str, Any]], set_aside: Sequence[SetAside]) -> bytes:
    """One row a piece with four columns a check, then one row for each row that was set aside."""
    codes = sorted({f["code"] for p in pieces for f in p["findings"]})
    header = [*_FIXED]
    for code in codes:
        header += [f"{code} measured", f"{code} limit", f"{code} unit", f"{code} verdict"]
    return csv_bytes(header, [*(_piece_row(p, codes) for p in pieces), *map(_aside_row, set_aside)])


def _piece_row(piece: dict[str, Any], codes: Sequence[str]) -> list[object]:
    size = piece["size_mm"] or [None] * 3
    failing = [f["message"] for f in piece["findings"] if f["level"] == "fails"]
    cells: list[object] = [
        piece["row"], piece["order"], piece["line"], piece["piece"], piece["stage"], piece["product"],
        piece["size"], piece["wording"], piece["height_mm"], "; ".join(s["said"] for s in piece["fit_steps"]),
        piece["volume_mm3"], piece["weight_g"], *size, piece["allowance_percent"], piece["fingerprint"],
        " ".join(piece["files"]), " ".join(failing), piece["looser"], "",
    ]  # fmt: skip
    # Worst first, and of two areas the worse one counts.
    by_code = {f["code"]: f for f in reversed(piece["findings"])}
    for code in codes:
        found = by_code.get(code)
        cells += [found["measured"], found["limit"], found["unit"], found["level"]] if found else [""] * 4
    return cells


def _aside_row(row: SetAside) -> list[object]:
    told = {"row": row.row, "stage": "set aside", "reason": row.reason}
    told["row as received"] = json.dumps(list(row.cells), ensure_ascii=False)
    return [told.get(column, "") for column in _FIXED]
