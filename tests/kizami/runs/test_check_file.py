"""Any file measured against a process: known bodies and drawings, each with one thing wrong."""

from __future__ import annotations

import io

import ezdxf
import manifold3d as m3
import numpy as np
import pytest
import trimesh

from kizami.errors import RunError
from kizami.formats.stl import stl_bytes
from kizami.runs.check_file import measure_file
from kizami.standards import shipped_standards
from tests.kizami.runs.samples import files_of, solid

RESIN, LASER = shipped_standards().processes["resin"], shipped_standards().processes["laser-ply"]


def failing(data: bytes, name: str, process=RESIN, **how: str) -> set[str]:
    return {m.code for m in measure_file(data, name=name, process=process, **how) if not m.holds}


def stl(manifold: m3.Manifold) -> bytes:
    return stl_bytes(solid(manifold), title="x")


def hollow() -> m3.Manifold:
    return m3.Manifold.cube((20, 20, 20)) - m3.Manifold.cube((10, 10, 10)).translate((5, 5, 5))


@pytest.mark.parametrize(
    ("make", "wrong"),
    [
        (lambda: m3.Manifold.cube((20, 15, 4)), set()),
        (lambda: m3.Manifold.cube((20, 15, 0.4)), {"wall-thickness"}),
        (lambda: m3.Manifold.cube((300, 15, 4)), {"piece-size"}),
        (hollow, {"cavities"}),
    ],
    ids=["sound", "thin", "large", "hollow"],
)
def test_bodies(make, wrong: set[str]) -> None:
    assert failing(stl(make()), "x.stl") == wrong
    assert failing(files_of(make())["3mf"], "x.3mf") == wrong


def test_a_wall_is_told_with_its_width_and_place() -> None:
    (wall,) = (m for m in measure_file(stl(m3.Manifold.cube((20, 15, 0.45))), name="x.stl", process=RESIN)
               if m.code == "wall-thickness")  # fmt: skip
    assert "0.45 mm; at least 0.60 mm" in wall.said


def test_an_open_skin_and_another_unit() -> None:
    mesh = trimesh.creation.box((20, 15, 4))
    mesh.update_faces(np.arange(len(mesh.faces)) > 0)
    assert "solid-body" in failing(mesh.export(file_type="stl"), "x.stl")
    assert failing(stl(m3.Manifold.cube((1, 1, 0.2))), "x.stl", unit="in") == set()
    assert failing(stl(m3.Manifold.cube((10, 10, 4))), "x.stl", unit="in") == {"piece-size"}


def drawing(body: str, head: str = 'width="60mm" height="40mm" viewBox="0 0 60 40"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{body}</svg>'.encode()


FRAME = '<path fill="none" stroke="#000" d="M5 5H55V35H5ZM{0} {0}H{1}V{2}H{0}Z"/>'


@pytest.mark.parametrize(
    ("data", "wrong"),
    [
        (drawing(FRAME.format(8, 52, 32)), set()),
        (drawing(FRAME.format(5.6, 54.4, 34.4)), {"web-width"}),
        (drawing(FRAME.format(8, 52, 32), 'width="60" height="40"'), {"unit-slip"}),
        (drawing('<path d="M5 5L55 35L55 5L5 35Z"/>'), {"loose-parts"}),
        (drawing('<rect x="5" y="5" width="20" height="20"/>', 'width="6cm" height="4cm" viewBox="0 0 60 40"'), set()),
        (drawing(""), {"fits-area"}),
        (drawing('<rect width="900" height="20"/>', 'width="900mm" height="40mm" viewBox="0 0 900 40"'), {"piece-size"}),
    ],
    ids=["sound", "thin web", "no unit", "crossed", "centimetres", "empty", "large"],
)  # fmt: skip
def test_drawings(data: bytes, wrong: set[str]) -> None:
    assert failing(data, "x.svg", LASER) == wrong


@pytest.mark.parametrize(("unit", "wrong"), [(4, set()), (1, {"unit-slip"}), (0, {"unit-slip"})])
def test_dxf(unit: int, wrong: set[str]) -> None:
    document = ezdxf.new("R2010", units=unit)
    space = document.modelspace()
    space.add_circle((30, 20), 15)
    space.add_lwpolyline([(0, 0), (60, 0), (60, 40), (0, 40)], close=True)
    out = io.StringIO()
    document.write(out)
    found = measure_file(out.getvalue().encode(), name="x.DXF", process=LASER)
    assert {m.code for m in found if not m.holds} == wrong
    assert any("60.0 by 40.0 mm" in m.said for m in found)
    assert any("2 closed paths, 0 open" in m.said for m in found)


@pytest.mark.parametrize(
    ("data", "name", "said"),
    [
        (b"x", "x.pdf", "none of STL"),
        (b"not a drawing", "x.svg", "can't be read"),
        (b"not a drawing", "x.dxf", "can't be read"),
        (b"0" * (64 * 1024 * 1024 + 1), "x.stl", "MB are the most"),
    ],
    ids=["form", "svg", "dxf", "size"],
)
def test_what_can_t_be_measured(data: bytes, name: str, said: str) -> None:
    with pytest.raises(RunError, match=said):
        measure_file(data, name=name, process=LASER)
