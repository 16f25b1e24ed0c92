"""Imports every check, so that all are registered. A new check is added to this list."""

from __future__ import annotations

from kizami.checks import (
    edge_gap,
    faithful,
    floor_left,
    gap_width,
    lettering_depth,
    letters_in_shape,
    logo_detail,
    loose_parts,
    lowest_height,
    missing_character,
    piece_size,
    solid_body,
    stroke_width,
    wording_settled,
)
from kizami.checks.registry import FlatCase, SolidCase, flat_checks, run_flat, run_solid, solid_checks

__all__ = ["FlatCase", "SolidCase", "flat_checks", "run_flat", "run_solid", "solid_checks"]

_REGISTERED = (
    edge_gap,
    faithful,
    floor_left,
    gap_width,
    lettering_depth,
    letters_in_shape,
    logo_detail,
    loose_parts,
    lowest_height,
    missing_character,
    piece_size,
    solid_body,
    stroke_width,
    wording_settled,
)
