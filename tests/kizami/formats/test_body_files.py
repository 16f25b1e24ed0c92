"""Supplied files: written by reference libraries, read here; and what can't be read, refused."""

from __future__ import annotations

import io
import struct
import zipfile
from pathlib import Path

import lib3mf
import numpy as np
import pytest
import trimesh

from kizami.blanks.supplied_body import MOST_FACETS
from kizami.errors import SurfaceError
from kizami.formats.body_files import LARGEST_BODY_BYTES, read_body
from kizami.formats.three_mf import three_mf_bytes
from kizami.solids.solid import solid_of


def lever() -> trimesh.Trimesh:
    """Nothing like symmetrical, so that a swapped axis or a lost move shows."""
    one, other = (
        trimesh.creation.box((40, 12, 6)),
        trimesh.creation.cylinder(radius=8, height=10, sections=48),
    )
    other.apply_translation((20, 3, 2))
    return trimesh.boolean.union([one, other], engine="manifold")


LEVER = lever()


def written_by_lib3mf(unit: lib3mf.ModelUnit, scale: float) -> bytes:
    """The lever from the reference library of the 3MF consortium, moved by its build item."""
    model = lib3mf.get_wrapper().CreateModel()
    model.SetUnit(unit)
    mesh = model.AddMeshObject()
    mesh.SetGeometry(
        [lib3mf.Position((lib3mf.ctypes.c_float * 3)(*(v / scale))) for v in LEVER.vertices],
        [lib3mf.Triangle((lib3mf.ctypes.c_uint32 * 3)(*map(int, f))) for f in LEVER.faces],
    )
    move = lib3mf.get_wrapper().GetTranslationTransform(*(np.array((5.0, -7.0, 11.0)) / scale))
    model.AddBuildItem(mesh, move)
    return bytes(model.QueryWriter("3mf").WriteToBuffer())


FILES = [
    pytest.param("lever.stl", LEVER.export(file_type="stl"), "mm", 1.0, id="binary STL"),
    pytest.param("LEVER.STL", LEVER.export(file_type="stl_ascii").encode(), "mm", 1.0, id="text STL"),
    pytest.param("lever.obj", LEVER.export(file_type="obj").encode(), "mm", 1.0, id="OBJ"),
    pytest.param("lever.obj", LEVER.copy().apply_scale(1 / 25.4).export(file_type="obj").encode(), "in", 1.0, id="OBJ in inches"),
    pytest.param("lever.3mf", written_by_lib3mf(lib3mf.ModelUnit.MilliMeter, 1.0), "", 1.0, id="3MF"),
    pytest.param("lever.3mf", written_by_lib3mf(lib3mf.ModelUnit.Inch, 25.4), "", 1.0, id="3MF in inches"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "data", "unit", "scale"), FILES)
def test_every_form_reads_back_the_same_body(name: str, data: bytes, unit: str, scale: float) -> None:
    body = read_body(data, name=name, unit=unit)
    assert body.manifold.volume() == pytest.approx(LEVER.volume, rel=1e-4)
    assert body.size_mm == pytest.approx(tuple(LEVER.extents * scale), rel=1e-4)
    assert body.notes == ()


def test_build_items_and_components_are_moved_as_they_say() -> None:
    moved = read_body(written_by_lib3mf(lib3mf.ModelUnit.MilliMeter, 1.0), name="a.3mf")
    assert moved.vertices.min(axis=0) == pytest.approx(LEVER.bounds[0] + (5, -7, 11), abs=1e-4)


def test_our_own_files_read_back() -> None:
    body = read_body(LEVER.export(file_type="stl"), name="a.stl", unit="mm")
    again = read_body(three_mf_bytes(solid_of(body.manifold), title="a"), name="a.3mf")
    assert again.manifold.volume() == pytest.approx(body.manifold.volume(), rel=1e-5)


def test_a_polygon_of_an_obj_becomes_a_fan_and_negative_numbers_count_back() -> None:
    corners = [(x, y, z) for z in (0, 6) for x, y in ((0, 0), (20, 0), (20, 10), (0, 10))]
    text = "".join(f"v {x} {y} {z}\n" for x, y, z in corners)
    text += "f 4 3 2 1\nf -4 -3 -2 -1\nf 1/1/1 2/2/2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n"
    assert read_body(text.encode(), name="a.obj", unit="mm").manifold.volume() == pytest.approx(1200)


def model(body: str, unit: str = "millimeter") -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        core = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
        package.writestr("3D/3dmodel.model", f'<model unit="{unit}" xmlns="{core}">{body}</model>')
    return out.getvalue()


def zipped(name: str, data: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr(name, data)
    return out.getvalue()


STL = LEVER.export(file_type="stl")
ITSELF = (
    '<resources><object id="1"><components><component objectid="1"/></components></object></resources>'
    '<build><item objectid="1"/></build>'
)
BOMB = b'<!DOCTYPE m [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><m>&b;</m>'
NAN = '<resources><object id="1"><mesh><vertices><vertex x="nan" y="0" z="0"/></vertices><triangles/></mesh></object></resources><build><item objectid="1"/></build>'

REFUSED = [
    pytest.param("a.step", b"x", "mm", "none of .stl, .obj, .3mf", id="another form"),
    pytest.param("a.stl", STL, "", "does not say its unit", id="no unit"),
    pytest.param("a.stl", STL, "furlong", "does not say its unit", id="unit that is none"),
    pytest.param("a.3mf", written_by_lib3mf(lib3mf.ModelUnit.MilliMeter, 1.0), "in", "its own unit", id="two units"),
    pytest.param("a.stl", STL[:-30], "mm", "but holds", id="cut off"),
    pytest.param("a.stl", b"", "mm", "no STL", id="empty"),
    pytest.param("a.stl", b"solid x\nfacet\nvertex 1 2 q\nendsolid", "mm", "no number", id="text with letters"),
    pytest.param("a.stl", b"solid x\nvertex 1 2 3\nvertex 1 2 3", "mm", "breaks off", id="text cut off"),
    pytest.param("a.stl", b"\0" * 80 + struct.pack("<I", 5_000_000) + bytes(50 * 5_000), "mm", "5,000,000", id="count beyond the file"),
    pytest.param("a.obj", b"v 0 0 0\nv 1 x 0\n", "mm", "line 2", id="OBJ with letters"),
    pytest.param("a.obj", b"v 0 0 0\nf 1 2 9\n", "mm", "not in the file", id="OBJ corner that is not there"),
    pytest.param("a.obj", b"# nothing\n", "mm", "no surface", id="OBJ without faces"),
    pytest.param("a.3mf", b"PK\x03\x04nonsense", "", "no 3MF", id="no zip"),
    pytest.param("a.3mf", zipped("readme.txt", b"hello"), "", "without a 3MF model", id="another zip"),
    pytest.param("a.3mf", zipped("3D/m.model", BOMB), "", "can't be read", id="entities"),
    pytest.param("a.3mf", zipped("3D/m.model", b"<model"), "", "can't be read", id="broken XML"),
    pytest.param("a.3mf", model("", unit="cubit"), "", "cubit", id="unit that 3MF has not"),
    pytest.param("a.3mf", model(""), "", "builds nothing", id="empty build"),
    pytest.param("a.3mf", model(ITSELF), "", "can't be followed", id="made of itself"),
    pytest.param("a.3mf", model(NAN), "", "no numbers|no surface", id="not a number"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "data", "unit", "said"), REFUSED)
def test_what_can_not_be_read_is_refused_with_the_reason(
    name: str, data: bytes, unit: str, said: str
) -> None:
    with pytest.raises(SurfaceError, match=said):
        read_body(data, name=name, unit=unit)


def test_what_is_too_large_is_refused_before_it_is_read() -> None:
    with pytest.raises(SurfaceError, match=f"{LARGEST_BODY_BYTES // 1048576} MB are the most"):
        read_body(bytes(LARGEST_BODY_BYTES + 1), name="a.stl", unit="mm")
    many = b"\0" * 80 + struct.pack("<I", MOST_FACETS + 1) + bytes(50 * (MOST_FACETS + 1))
    with pytest.raises(SurfaceError, match="coarsely"):
        read_body(many, name="a.stl", unit="mm")


def test_a_zip_that_unpacks_to_far_more_is_stopped() -> None:
    packed = zipped("3D/m.model", b" " * (300 * 1024 * 1024))
    assert len(packed) < 1024 * 1024
    with pytest.raises(SurfaceError, match="unpacks to more than"):
        read_body(packed, name="a.3mf")


def test_the_demo_s_shapes_are_what_their_formulas_draw(tmp_path: Path) -> None:
    import runpy

    from launch.state import REPOSITORY

    drawn = runpy.run_path(str(REPOSITORY / "scripts" / "draw-demo-shapes.py"))
    drawn["main"](tmp_path)
    for path in (REPOSITORY / "demo" / "shapes").iterdir():
        kept, again = (read_body(p.read_bytes(), name=path.name) for p in (path, tmp_path / path.name))
        assert kept.manifold.volume() == pytest.approx(again.manifold.volume(), rel=1e-6)


NOTCHED = [(0, 0), (20, 0), (20, 5), (5, 5), (5, 20), (0, 20)]


@pytest.mark.parametrize("blank", [" ", "\t", " \t "], ids=["blanks", "tabs", "both"])
@pytest.mark.parametrize("turn", [0, 1, 2], ids=["along z", "along x", "along y"])
def test_a_face_with_a_notch_is_no_fan(blank: str, turn: int) -> None:
    """An angle 20 x 20 x 6 with arms 5 wide: (20 x 5 + 5 x 15) x 6; a fan from its first corner fills the notch."""
    corners = [(x, y, z) for z in (0, 6) for x, y in NOTCHED[2:] + NOTCHED[:2]]
    corners = [tuple(np.roll(c, turn)) for c in corners]
    faces = [
        [5, 4, 3, 2, 1, 0],
        [6, 7, 8, 9, 10, 11],
        *([i, (i + 1) % 6, 6 + (i + 1) % 6, 6 + i] for i in range(6)),
    ]
    lines = [blank.join(("v", *map(str, c))) for c in corners]
    lines += [blank.join(("f", *(str(i + 1) for i in face))) for face in faces]
    body = read_body("\n".join(lines).encode(), name="angle.obj", unit="mm")
    assert body.manifold.volume() == pytest.approx((20 * 5 + 5 * 15) * 6)
