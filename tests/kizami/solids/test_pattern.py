"""Patterns against the patternmaker's rule, and as they are told in every file.

Allowances as Machinery's Handbook has them for patterns, from memory: brass 3/16 in per foot, aluminium 5/32.
"""

from __future__ import annotations

import io
import zipfile

import manifold3d as m3
import numpy as np
import pytest
import trimesh

from kizami.errors import CatalogueError
from kizami.pieces.batch import piece_files
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from kizami.solids.pattern import pattern_of
from kizami.solids.solid import solid_of
from tests.kizami.samples import TAG_TABLE, inputs


@pytest.mark.parametrize(("inch_per_foot", "name"), [(3 / 16, "brass"), (5 / 32, "aluminium")])
def test_a_foot_comes_out_longer_by_what_the_rule_says(inch_per_foot: float, name: str) -> None:
    bar = solid_of(m3.Manifold.cube((304.8, 10.0, 5.0)))
    pattern = pattern_of(bar, 100.0 * inch_per_foot / 12.0)
    assert np.ptp(pattern.vertices[:, 0]) == pytest.approx(304.8 + 25.4 * inch_per_foot, abs=1e-4)
    assert pattern.volume_mm3 == pytest.approx(pattern.manifold().volume(), rel=1e-6)
    assert pattern_of(bar, 0.0) is bar


def test_files_are_patterns_and_say_so_while_the_piece_keeps_its_measures() -> None:
    plain, larger = (
        make_piece(inputs(product_from_table({**TAG_TABLE, "allowance_percent": percent}), "Owen"))
        for percent in (0.0, 1.5)
    )
    assert larger.solid.volume_mm3 == plain.solid.volume_mm3 and larger.weight_g == plain.weight_g
    assert larger.fingerprint != plain.fingerprint
    files = piece_files(larger, title="Owen")
    for form in ("stl", "3mf"):
        mesh = trimesh.load(io.BytesIO(files[form]), file_type=form, force="mesh")
        assert mesh.volume == pytest.approx(plain.solid.volume_mm3 * 1.015**3, rel=1e-4)
    assert b"pattern, 1.5 % larger" in files["stl"][:80]
    with zipfile.ZipFile(io.BytesIO(files["3mf"])) as package:
        assert "pattern, 1.5 % larger" in package.read("3D/3dmodel.model").decode()
    assert files["svg"] == piece_files(plain, title="Owen")["svg"]


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"allowance_percent": 7.0}, "from 0 to 5"),
        ({"allowance_percent": 1.0, "process": "laser-ply"}, "does not shrink"),
    ],
)
def test_what_can_not_be_an_allowance_is_refused(changes: dict[str, object], says: str) -> None:
    with pytest.raises(CatalogueError, match=says):
        product_from_table({**TAG_TABLE, **changes})
