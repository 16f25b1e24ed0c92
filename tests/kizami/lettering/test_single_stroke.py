"""Single-stroke lettering and its toolpaths, against ISO 3098 and an independent DXF reader."""

from __future__ import annotations

import io
import re
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from ezdxf import recover
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from kizami.cli import main
from kizami.errors import TypefaceError
from kizami.formats.toolpaths import toolpath_dxf, toolpath_svg
from kizami.lettering.single_stroke import shipped_single_stroke, single_stroke_codes

#: ISO 3098-0 (from memory): nominal heights h; stroke h/10 (type B); 2h/10 between characters at least.
ISO_HEIGHTS_MM = [1.8, 2.5, 3.5, 5.0, 7.0, 10.0, 14.0, 20.0]
PLAIN = ["hershey-simplex", "ems-readability"]


@pytest.mark.parametrize("code", single_stroke_codes())
@pytest.mark.parametrize("height", ISO_HEIGHTS_MM)
def test_a_capital_is_as_high_as_asked(code: str, height: float) -> None:
    _, low, _, high = shipped_single_stroke(code).set_line("H", height_mm=height).bounds
    assert (high - low, low) == pytest.approx(
        (height, 0.0), abs=1e-6 + (0.12 * height if "script" in code else 0)
    )


@pytest.mark.parametrize("code", PLAIN)
def test_upright_strokes_stand_as_far_apart_as_technical_lettering_asks(code: str) -> None:
    """Clear space between characters of 2h/10 (ISO 3098, type B), a stroke of h/10 being drawn by the point."""
    line = shipped_single_stroke(code).set_line("HH", height_mm=10.0)
    ends = [np.concatenate([s.points for s in line.strokes if s.cluster == c])[:, 0] for c in (0, 1)]
    clear = ends[1].min() - ends[0].max() - 10.0 / 10
    assert clear >= 2.0 - 0.5


@pytest.mark.parametrize("code", single_stroke_codes())
def test_every_letter_of_the_alphabet_is_drawn_inside_its_own_room(code: str) -> None:
    face = shipped_single_stroke(code)
    for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789&.,-'":
        line = face.set_line(letter, height_mm=1.0)
        assert line.length_mm > 0, letter
        low_x, low_y, high_x, high_y = line.bounds
        assert low_y > -0.7 and high_y < 1.6 and high_x - low_x < 1.6, letter
        assert all(np.isfinite(s.points).all() for s in line.strokes)


@settings(max_examples=40, deadline=None)
@given(st.text(st.sampled_from("ABHMabg 19&"), min_size=1, max_size=14), st.floats(1, 20), st.floats(0, 0.5))
def test_lines_scale_and_letters_keep_their_order(text: str, height: float, tracking: float) -> None:
    face = shipped_single_stroke("hershey-simplex")
    one = face.set_line(text, height_mm=1.0, tracking=tracking)
    other = face.set_line(text, height_mm=height, tracking=tracking)
    assert other.length_mm == pytest.approx(one.length_mm * height)
    lefts = [
        min(s.points[:, 0].min() for s in other.strokes if s.cluster == c)
        for c in sorted({s.cluster for s in other.strokes})
    ]
    assert lefts == sorted(lefts)


def test_a_missing_character_is_named_and_a_wrong_code_lists_the_right_ones() -> None:
    face = shipped_single_stroke("hershey-simplex")
    assert face.missing("Zoé 🙂") == (2, 4)
    with pytest.raises(TypefaceError, match="é"):
        face.set_line("Zoé", height_mm=3.0)
    with pytest.raises(TypefaceError, match="hershey-script"):
        shipped_single_stroke("comic")


LINE = shipped_single_stroke("hershey-simplex").set_line("Ivy & Co", height_mm=5.0).centred(30.0, 10.0)
PATHS = [s.points for s in LINE.strokes]


def test_centred_is_centred() -> None:
    low_x, low_y, high_x, high_y = LINE.bounds
    assert ((low_x + high_x) / 2, (low_y + high_y) / 2) == pytest.approx((30.0, 10.0))


def test_the_dxf_is_sound_open_and_in_millimetres() -> None:
    data = toolpath_dxf(PATHS)
    document, auditor = recover.read(io.BytesIO(data))
    assert not auditor.has_errors and not auditor.has_fixes
    assert document.header["$INSUNITS"] == ezdxf.units.MM == 4
    lines = list(document.modelspace())
    assert {(e.dxftype(), e.dxf.layer, e.closed) for e in lines} == {("LWPOLYLINE", "SCORE", False)}
    for entity, path in zip(lines, PATHS, strict=True):
        assert np.array([(p[0], p[1]) for p in entity.get_points()]) == pytest.approx(path, abs=1e-9)


def test_equal_paths_give_equal_bytes() -> None:
    assert toolpath_dxf(PATHS) == toolpath_dxf([p.copy() for p in PATHS])


def test_the_svg_is_at_true_size_with_open_unfilled_paths() -> None:
    root = etree.fromstring(toolpath_svg(PATHS, size_mm=(60.0, 20.0), title="Ivy <& Co>"))
    space = {"s": "http://www.w3.org/2000/svg"}
    assert (root.get("width"), root.get("height")) == ("60.0000mm", "20.0000mm")
    assert root.get("viewBox") == "0 0 60.0000 20.0000"
    assert root.findtext("s:title", namespaces=space) == "Ivy <& Co>"
    assert root.find("s:g", space).get("fill") == "none"
    drawn = root.findall(".//s:path", space)
    assert len(drawn) == len(PATHS)
    for element, path in zip(drawn, PATHS, strict=True):
        assert "z" not in element.get("d").lower()
        numbers = np.array(re.findall(r"-?[\d.]+", element.get("d")), dtype=float).reshape(-1, 2)
        assert numbers == pytest.approx(np.column_stack((path[:, 0], 20.0 - path[:, 1])), abs=1e-4)


@pytest.mark.parametrize("kind", ["svg", "dxf"])
def test_the_command_line_writes_what_a_scoring_machine_takes(kind: str, tmp_path: Path, capsys) -> None:
    out = tmp_path / f"name.{kind}"
    assert main(["score", "Ivy & Co", "--height", "5", "--out", str(out)]) == 0
    assert "mm to score" in capsys.readouterr().out
    if kind == "dxf":
        document, auditor = recover.read(io.BytesIO(out.read_bytes()))
        drawn = [np.array(e.get_points("xy")) for e in document.modelspace()]
        assert not auditor.has_errors
    else:
        paths = etree.fromstring(out.read_bytes()).iter("{*}path")
        drawn = [np.array(re.findall(r"-?[\d.]+", p.get("d")), dtype=float).reshape(-1, 2) for p in paths]
    low, high = np.vstack(drawn).min(axis=0), np.vstack(drawn).max(axis=0)
    assert low == pytest.approx([5.0, 5.0], abs=1e-3)
    assert (high - low)[1] == pytest.approx(LINE.bounds[3] - LINE.bounds[1], abs=1e-3)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["Ivy", "--out", "x.stl"], ".svg or .dxf"),
        (["Zoé", "--out", "x.svg"], "é"),
        (["Ivy", "--height", "0", "--out", "x.svg"], "0.5 to 200"),
        (["Ivy", "--height", "nan", "--out", "x.svg"], "0.5 to 200"),
        (["  ", "--out", "x.svg"], "nothing to score"),
        (["x" * 501, "--out", "x.svg"], "500"),
    ],
)
def test_what_can_not_be_scored_is_said_in_one_line(arguments: list[str], says: str, capsys) -> None:
    assert main(["score", *arguments]) == 2
    said = capsys.readouterr().err
    assert says in said and said.count("\n") == 1
