"""Why files are read and written here and not by a library: what each library makes of drawings and bodies that
shops send. Should one of these tests fail, the library has become better and may take over.

Areas and volumes are worked out by hand.
"""

from __future__ import annotations

import io
import json
import struct
import zipfile
from collections.abc import Callable

import manifold3d as m3
import numpy as np
import pathops
import pytest
import trimesh
from picosvg.svg import SVG

from kizami.artwork.svg_files import read_svg
from kizami.errors import SurfaceError
from kizami.formats.body_files import read_body
from kizami.formats.glb import glb_bytes, linear_rgb
from kizami.solids.solid import solid_of
from tests.reference.test_svg_files import by_rsvg, icons

ANGLE = [(0, 0), (3, 0), (3, 1), (1, 1), (1, 3), (0, 3)]


def angle_iron(first: int) -> str:
    """An angle iron with legs of 3 and walls of 1, 1 high: 5 mm3 and 22 mm2. Its top begins at a given corner."""
    lines = [f"v {x} {y} {z}" for z in (0, 1) for x, y in ANGLE]
    top = [7 + (first + k) % 6 for k in range(6)]
    lines += ["f 6 5 4 3 2 1", "f " + " ".join(map(str, top))]
    lines += [f"f {i + 1} {(i + 1) % 6 + 1} {(i + 1) % 6 + 7} {i + 7}" for i in range(6)]
    return "\n".join(lines) + "\n"


def area_mm2(points: np.ndarray, triangles: np.ndarray) -> float:
    a, b, c = points[triangles.T]
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


def by_trimesh(data: bytes, form: str) -> trimesh.Trimesh:
    loaded = trimesh.load(io.BytesIO(data), file_type=form, force="mesh")
    assert isinstance(loaded, trimesh.Trimesh)
    return loaded


def test_a_face_with_a_notch_is_filled_over_by_the_library() -> None:
    wrong = 0
    for first in range(6):
        data = angle_iron(first).encode()
        wrong += abs(by_trimesh(data, "obj").area - 22.0) > 1e-6
        ours = read_body(data, name="angle.obj", unit="mm")
        assert area_mm2(ours.vertices, ours.triangles) == pytest.approx(22.0)
    assert wrong >= 3


def test_tabs_between_numbers_lose_corners_in_the_library() -> None:
    data = angle_iron(0).replace(" ", "\t").encode()
    assert read_body(data, name="angle.obj", unit="mm").manifold.volume() == pytest.approx(5.0)
    assert len(by_trimesh(data, "obj").vertices) < 12


@pytest.mark.parametrize("cut", [7, 50, 84 + 3 * 50])
def test_a_file_that_breaks_off_is_taken_in_silence_by_the_library(cut: int) -> None:
    data = trimesh.creation.box((3, 4, 5)).export(file_type="stl")[:-cut]
    assert trimesh.load(io.BytesIO(data), file_type="stl").is_empty
    with pytest.raises(SurfaceError):
        read_body(data, name="box.stl", unit="mm")


def test_a_model_that_declares_entities_is_followed_by_the_library() -> None:
    whole = trimesh.creation.box((3, 4, 5)).export(file_type="3mf")
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as package, zipfile.ZipFile(out, "w") as changed:
        for name in package.namelist():
            text = package.read(name)
            if name.endswith(".model"):
                body = (
                    text.decode()
                    .partition("?>")[2]
                    .replace("</model>", "<metadata name='x'>&b;</metadata></model>")
                )
                text = f'<!DOCTYPE m [<!ENTITY a "1"><!ENTITY b "&a;&a;">]>{body}'.encode()
            changed.writestr(name, text)
    assert not trimesh.load(io.BytesIO(out.getvalue()), file_type="3mf").is_empty
    with pytest.raises(SurfaceError):
        read_body(out.getvalue(), name="box.3mf")


def colours_of(glb: bytes) -> list[list[float]]:
    size = struct.unpack("<I", glb[12:16])[0]
    materials = json.loads(glb[20 : 20 + size])["materials"]
    return [material["pbrMetallicRoughness"]["baseColorFactor"][:3] for material in materials]


def test_dark_colours_are_rounded_by_the_library() -> None:
    """In linear light a step of 1/255 is three steps of a dark colour on a screen."""
    dark = "#0a2430"
    solid = solid_of(m3.Manifold.cube((1, 2, 3)))
    (ours,) = colours_of(glb_bytes(solid, title="x", body=dark, lettering=dark))
    assert ours == pytest.approx(linear_rgb(dark), abs=1e-6)
    box = trimesh.creation.box()
    material = trimesh.visual.material.PBRMaterial(baseColorFactor=[*linear_rgb(dark), 1.0])
    box.visual = trimesh.visual.TextureVisuals(material=material)
    (theirs,) = colours_of(box.export(file_type="glb"))
    assert theirs[0] > 1.2 * linear_rgb(dark)[0]


SVG_HEAD = '<svg xmlns="http://www.w3.org/2000/svg" '
REFUSED = {
    # Of a window 10 wide and high, so that an area of 1 is all of it.
    "classes": ('viewBox="0 0 10 10"><style>.a{fill:#fff}</style><rect width="10" height="10"/>'
                '<rect class="a" x="2" y="2" width="4" height="4"/></svg>', 0.84),
    "per cent": ('viewBox="0 0 10 10"><rect width="50%" height="10"/></svg>', 0.5),
    "millimetres": ('width="10mm" height="10mm"><rect width="5mm" height="10mm"/></svg>', 0.5),
    "a symbol": ('viewBox="0 0 10 10"><symbol id="s" viewBox="0 0 2 2"><rect width="2" height="2"/></symbol>'
                 '<use href="#s" width="4" height="4"/></svg>', 1.0),
}  # fmt: skip


@pytest.mark.parametrize("name", REFUSED)
def test_drawings_that_the_library_refuses_are_read(name: str) -> None:
    text, area = REFUSED[name]
    # Areas are told for a height of 1, whatever the drawing's own.
    assert read_svg((SVG_HEAD + text).encode(), name=name).outlines(sagitta=1e-3).area == pytest.approx(area)
    with pytest.raises(ValueError):
        SVG.fromstring(SVG_HEAD + text).topicosvg()


def ink(svg: str) -> pathops.Path:
    """The ink of an icon by the library's own reading."""
    whole = pathops.Path()
    for shape in SVG.fromstring(svg).topicosvg().shapes():
        path = pathops.Path()
        pen = path.getPen()
        draw: dict[str, Callable[..., None]] = {
            "M": lambda *a, pen=pen: pen.moveTo(a),
            "L": lambda *a, pen=pen: pen.lineTo(a),
            "C": lambda *a, pen=pen: pen.curveTo(a[:2], a[2:4], a[4:]),
            "Q": lambda *a, pen=pen: pen.qCurveTo(a[:2], a[2:]),
            "Z": lambda *_, pen=pen: pen.closePath(),
        }
        for command, args in shape.as_path().explicit_lines().expand_shorthand().absolute().arcs_to_cubics():
            draw[command.upper()](*args)
        whole = pathops.op(whole, path, pathops.PathOp.UNION)
    return whole


def test_strokes_come_out_truer_than_with_the_library() -> None:
    """Ink of icons drawn in strokes, told for a height of 1, beside a renderer's count of dark pixels."""
    off: dict[str, tuple[float, float]] = {}
    for icon, svg in list(icons("tabler").items())[::10]:
        theirs = ink(svg)
        _, low, _, high = theirs.bounds
        ours = read_svg(svg.encode(), name=icon).outlines(sagitta=2e-4).area
        dark = 1.0 - by_rsvg(svg, 2000, 2000)
        rows = np.flatnonzero(dark.sum(axis=1) > 0.5)
        true = dark.sum() / (rows[-1] - rows[0] + 1) ** 2
        off[icon] = (abs(ours / true - 1.0), abs(abs(theirs.area) / (high - low) ** 2 / true - 1.0))
    assert max(ours for ours, _ in off.values()) < 0.004
    assert max(theirs for _, theirs in off.values()) > 0.01
