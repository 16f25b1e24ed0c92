"""The words of a customer on their area: in the lines that were written, or otherwise where that is allowed."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from kizami.cli import catalogue_at
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import lay_out

CATALOGUE = catalogue_at(Path(__file__).parents[3] / "demo" / "products.toml")


@pytest.mark.parametrize(
    ("line_breaks", "wording", "is_kept"),
    [
        # In the lines that were written the long one is too small; in one line of two words, or broken anew, it holds.
        ("kept", "Maximilian Theodor\nB", True),
        ("wish", "Maximilian Theodor\nB", False),
        ("wish", "Ana\nTom", True),
    ],
)
def test_lines_that_a_customer_wrote_are_tried_first(line_breaks: str, wording: str, is_kept: bool) -> None:
    product = CATALOGUE.find("CREW-TAG")
    assert product is not None
    product = replace(product, wording=replace(product.wording, line_breaks=line_breaks))
    laid = lay_out(Inputs(product=product, wording=wording, size=None))
    undone = [step for step in laid.layout.steps if "undone" in step.said]
    assert bool(undone) != is_kept
    assert not laid.failing or line_breaks == "kept"
