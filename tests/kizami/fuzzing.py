"""Random products and wordings over all blanks, treatments, typefaces and settings, the same for a seed."""

from __future__ import annotations

import random
from typing import Any

import trimesh

from kizami.checks.finding import Level
from kizami.errors import KizamiError
from kizami.lettering.shipped import shipped_typeface_codes
from kizami.pieces.forecast import shipped_names
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece
from kizami.products.product_file import product_from_table
from kizami.standards import shipped_standards

__all__ = ["complaint", "random_inputs"]

_WORDS = (
    "",
    " ",
    "Å",
    "i",
    "WWW",
    "j.j",
    "Ærøskøbing",
    "ffi",
    "12.05.27",
    "🙂",
    "a\nb\nc",
    "سلمى",
    "שלום",
    "さくら",
    "x" * 60,
    "-",
    "O'Neil",
    "&",
)


def _blank(rng: random.Random) -> dict[str, Any]:
    u = rng.uniform
    ring = {
        "kind": "band ring",
        "width_mm": u(3, 12),
        "wall_mm": u(1.2, 3),
        "seam_mm": rng.choice((0.0, u(2, 6))),
    }
    plate = {
        "kind": "plate", "outline": rng.choice(("rounded", "oval", "heart", "leaf", "ticket")),
        "length_mm": u(20, 70), "height_mm": u(14, 40), "thickness_mm": u(1.5, 5), "corner_mm": u(1, 4),
        "hang": rng.choice(("none", "hole left", "hole top", "ear top")), "hole_mm": u(2, 4), "web_mm": u(1.5, 4),
        "tray_mm": rng.choice((0.0, 0.0, u(0.4, 1.2))), "rim_mm": u(1, 3),
    }  # fmt: skip
    return rng.choice(
        (
            {**ring, **rng.choice(({}, {"outer": "domed", "rise_mm": u(0.2, 0.8)}, {"outer": "tapered", "rise_mm": u(0.2, 0.6)}, {"outer": "channel", "rise_mm": u(0.2, 0.6), "rim_mm": u(0.6, 1.2)}))},
            plate,
            {"kind": "bead", "diameter_mm": u(12, 40), "hole_mm": u(2, 6)},
            {"kind": "domed disc", "diameter_mm": u(18, 40), "edge_mm": u(1, 2), "rise_mm": u(0.5, 2.5), "hole_mm": 2.0, "web_mm": 1.2},
            {"kind": "coin", "diameter_mm": u(20, 40), "thickness_mm": u(4, 9), "round_mm": u(1, 3)},
            {"kind": "sleeve", "low_mm": u(28, 50), "high_mm": u(26, 50), "length_mm": u(20, 90), "bore_mm": u(12, 20)},
            {"kind": "name piece", "length_mm": u(40, 120), "height_mm": u(20, 50), "curve_mm": rng.choice((0.0, u(40, 120)))},
            {"kind": "ring frame", "diameter_mm": u(30, 60), "frame_mm": u(2, 4), "thickness_mm": u(2, 4), "hole_mm": 3.0, "web_mm": 2.0},
            {"kind": "signet ring", "head": rng.choice(("oval", "rounded")), "head_length_mm": u(10, 18), "head_width_mm": u(8, 14), "corner_mm": u(1, 3), "rise_mm": u(0.8, 1.6), "shank_mm": u(3, 5), "wall_mm": u(1.4, 2)},
        )
    )  # fmt: skip


def _treatment(rng: random.Random, blank: dict[str, Any]) -> dict[str, Any]:
    u = rng.uniform
    if blank["kind"] in ("name piece", "ring frame"):
        return {"kind": "cut-out", "thickness_mm": blank.get("thickness_mm", u(1, 4))}
    return rng.choice(
        (
            {"kind": "engraved", "depth_mm": u(0.1, 1.2)},
            {"kind": "engraved", "depth_mm": u(0.1, 0.8), "floor": rng.choice(("pointed", "rounded"))},
            {"kind": "engraved", "depth_mm": u(0.2, 0.8), "draft_deg": u(1, 20)},
            {"kind": "raised", "height_mm": u(0.1, 1.5), "root_mm": u(0.2, 0.8)},
            {"kind": "raised", "height_mm": u(0.3, 1.0), "root_mm": 0.4, "edge": rng.choice(("chamfer", "rounded")), "edge_mm": u(0.02, 0.25), "draft_deg": rng.choice((0.0, u(1, 10)))},
            {"kind": "in recess", "depth_mm": u(0.3, 0.8), "height_mm": u(0.2, 0.8), "margin_mm": u(0.2, 1.5)},
            {"kind": "pierced"},
            {"kind": "scored"},
        )
    )  # fmt: skip


def _table(rng: random.Random) -> dict[str, Any]:
    u = rng.uniform
    blank = _blank(rng)
    high = u(2, 16)
    table: dict[str, Any] = {
        "code": "F", "blank": blank, "treatment": _treatment(rng, blank),
        "process": rng.choice(tuple(shipped_standards().processes)), "material": "bronze",
        "typeface": rng.choice(shipped_typeface_codes()),
        "fit": {
            "greatest_height_mm": high, "lowest_height_mm": u(0.5, high), "clearance_mm": u(0.0, 2.0),
            "tracking": u(-0.05, 0.3), "most_lines": 3, "leading": u(1.1, 1.8), "narrowest": 0.8, "tightest": -0.1,
            "steps": rng.sample(["tighten", "lower", "condense", "break"], rng.randint(1, 4)),
        },
    }  # fmt: skip
    if blank["kind"] in ("band ring", "signet ring"):
        table["size_system"] = "ISO"
    if blank["kind"] == "band ring" and rng.random() < 0.3:
        table["area"] = "inside"
    if rng.random() < 0.25:
        table["arrangement"] = rng.choice(
            (
                {"turn": {"kind": "spread", "separator": " "}},
                {"turn": {"kind": "repeated", "times": 2}},
                {"shape": {"kind": "arc", "radius_mm": u(8, 40)}},
                {"shape": {"kind": "filled", "outline": rng.choice(("round", "heart", "oval"))}},
                {"mirrored": True},
                {"upside_down": True},
            )
        )
    if rng.random() < 0.5:
        table["soundness"] = {
            "thicken": rng.choice(("never", "where needed")), "bridge_mm": u(0.4, 2),
            "one_piece": rng.choice(("no", "bridges", "base bar", "underline")), "overlap_mm": rng.choice((0.0, u(0, 0.6))),
            "middle_bridges": rng.random() < 0.5, "loop": rng.choice(("none", "left", "ends", "balanced")),
            "rim_mm": rng.choice((0.0, 0.0, u(0.5, 2))),
        }  # fmt: skip
    if rng.random() < 0.15:
        table["along_pull"] = True
    return table


def random_inputs(seed: int) -> Inputs | None:
    """What a seed gives; None where its product is refused when it is read, which is right."""
    rng = random.Random(seed)
    try:
        product = product_from_table(_table(rng))
        words = rng.choice(_WORDS) if rng.random() < 0.3 else rng.choice(shipped_names())
        size = product.read_size(str(rng.randint(44, 70)) if product.size_system else "")
        product.blank_for(size)
    except KizamiError:
        return None
    return Inputs(product=product, wording=words, size=size)


def complaint(inputs: Inputs) -> str:
    """What is wrong with a fuzzed piece, or "": an error that escapes or nobody foresaw, or a ready piece
    that another library does not take for a sound body."""
    piece: Made = make_piece(inputs)
    unforeseen = [f.message for f in piece.findings if f.code == "made" and f.level is Level.FAILS]
    if unforeseen:
        return unforeseen[0]
    if piece.stage != "ready" or piece.solid is None:
        return ""
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    mesh.merge_vertices(digits_vertex=6)
    if not mesh.is_volume:
        return "ready, but not closed after its vertices are merged"
    if (mesh.area_faces < 1e-12).any():
        return "ready, with facets without area"
    return ""
