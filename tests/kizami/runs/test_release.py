"""Files of a plate: written, read back by other code, and refused when anything in them is off."""

from __future__ import annotations

import io
import json
import re
import shutil
import subprocess
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import lib3mf
import numpy as np
import openpyxl
import pypdfium2
import pytest
import trimesh

from kizami.outlines.moving import rotated, shifted
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.laying import placed_outline
from kizami.runs.machine import shipped_machines
from kizami.runs.paper_back import differences_pdf
from kizami.runs.place_map import marks_of
from kizami.runs.plate_files import write_plate_3mf, write_plate_glb, write_plate_stl
from kizami.runs.reading_back import differences_3mf, differences_glb, differences_stl, expected_of
from kizami.runs.release import Run, release
from kizami.runs.tables_back import differences_svg_map
from tests.kizami.runs.samples import flat_laid, laid, ring, wedge

PLATE = replace(shipped_machines()["RESIN-1"], bed_mm=(120.0, 70.0, 60.0))


@pytest.fixture(scope="module")
def run() -> Run:
    """A wedge, the same one turned, and a ring; two of them equal."""
    one, shape = laid("A-1-1", wedge(), 5.0, 5.0)
    twin = replace(one, key="A-1-2", wording="=SUM(1)", place=replace(one.place, key="A-1-2", x_mm=60, y_mm=20,
                                                                      turn_deg=127.0))  # fmt: skip
    other, other_shape = laid("B-7-1", ring(), 80.0, 30.0, 30.0)
    pieces = (one, twin, other)
    outlines = tuple(
        placed_outline(s, p.place) for s, p in zip((shape, shape, other_shape), pieces, strict=True)
    )
    return Run(
        code="RESIN-1-0007", machine=PLATE, material="printed-resin", pieces=pieces, outlines=outlines,
        facts=("3 pieces",),
    )  # fmt: skip


def test_a_run_is_released_with_all_its_files(run: Run, tmp_path: Path) -> None:
    released = release(run, tmp_path)
    assert released.whole
    endings = {name.removeprefix("RESIN-1-0007") for name in released.files}
    assert endings == {
        "-map.svg", "-map.pdf", "-pieces.csv", "-pieces.xlsx", ".3mf", ".stl", ".glb", "-manifest.json",
    }  # fmt: skip
    manifest = json.loads((tmp_path / "RESIN-1-0007-manifest.json").read_bytes())
    assert [p["ticket"] for p in manifest["pieces"]] == ["A-1-1", "A-1-2", "B-7-1"]
    for file in manifest["files"]:
        said = subprocess.run(
            ["sha256sum", tmp_path / file["name"]], capture_output=True, text=True, check=True
        )
        assert said.stdout.split()[0] == file["sha256"]
        assert (tmp_path / file["name"]).stat().st_size == file["size"]


def test_the_same_run_gives_the_same_bytes(run: Run, tmp_path: Path) -> None:
    for name in ("a", "b"):
        (tmp_path / name).mkdir()
        release(run, tmp_path / name)
    for path in (tmp_path / "a").iterdir():
        assert path.read_bytes() == (tmp_path / "b" / path.name).read_bytes(), path.name


def test_3mf_has_an_object_a_piece_where_it_lies(run: Run, tmp_path: Path) -> None:
    """By the format's own library: unit, names, part numbers, a thumbnail, and z = 0 under every piece."""
    release(run, tmp_path)
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.QueryReader("3mf").ReadFromFile(str(tmp_path / "RESIN-1-0007.3mf"))
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    items, found = model.GetBuildItems(), {}
    while items.MoveNext():
        item = items.GetCurrent()
        box = item.GetObjectResource().GetOutbox() if hasattr(item.GetObjectResource(), "GetOutbox") else None
        found[item.GetPartNumber()] = (item.GetObjectResource().GetName(), box)
    assert {key: name for key, (name, _) in found.items()} == {
        "A-1-1": "A-1-1 words of A-1-1", "A-1-2": "A-1-2 =SUM(1)", "B-7-1": "B-7-1 words of B-7-1",
    }  # fmt: skip
    scene = trimesh.load_scene(tmp_path / "RESIN-1-0007.3mf")
    assert scene.bounds[0][2] == pytest.approx(0.0, abs=1e-3)
    with zipfile.ZipFile(tmp_path / "RESIN-1-0007.3mf") as package:
        assert package.read("Metadata/thumbnail.png").startswith(b"\x89PNG")


def spoilt_3mf(change: Callable[[bytes], bytes]) -> Callable[[Path, Run], None]:
    def spoil(path: Path, run: Run) -> None:
        with zipfile.ZipFile(path) as package:
            inside = {name: package.read(name) for name in package.namelist()}
        inside["3D/3dmodel.model"] = change(inside["3D/3dmodel.model"])
        with zipfile.ZipFile(path, "w") as package:
            for name, data in inside.items():
                package.writestr(name, data)

    return spoil


def _first_transform(change: Callable[[list[float]], list[float]]) -> Callable[[bytes], bytes]:
    def spoil(model: bytes) -> bytes:
        (found,) = re.findall(rb'partnumber="A-1-1" transform="([^"]*)"', model)
        values = change([float(v) for v in found.split()])
        return model.replace(found, " ".join(map(str, values)).encode(), 1)

    return spoil


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (spoilt_3mf(lambda m: m.replace(b'unit="millimeter"', b'unit="inch"')), "not in mm"),
        (spoilt_3mf(_first_transform(lambda v: [*v[:9], v[9] + 0.05, *v[10:]])), "elsewhere"),
        (spoilt_3mf(_first_transform(lambda v: [-v[0], *v[1:3], -v[3], *v[4:6], -v[6], *v[7:]])), "mirrored"),
        (spoilt_3mf(lambda m: re.sub(rb'<item objectid="\d+" partnumber="A-1-2"[^>]*/>', b"", m)), "missing"),
        (spoilt_3mf(lambda m: m.replace(b'partnumber="B-7-1"', b'partnumber="B-7-9"')), "does not belong"),
        (spoilt_3mf(lambda m: m.replace(b'name="B-7-1 words', b'name="C-7-1 words')), "bears the name"),
        (spoilt_3mf(lambda m: re.sub(rb'<triangle [^>]*/>', b"", m, count=1)), "not closed"),
        (spoilt_3mf(lambda m: m[: len(m) // 2]), "can't be read"),
    ],
    ids=["inches", "shifted", "mirrored", "missing", "other", "name", "open", "cut off"],
)  # fmt: skip
def test_a_3mf_that_differs_is_found(
    run: Run, tmp_path: Path, spoil: Callable[[Path, Run], None], said: str
) -> None:
    path = tmp_path / "plate.3mf"
    with path.open("wb") as out:
        write_plate_3mf(out, run.pieces, title="x", thumbnail=b"\x89PNG\r\n\x1a\n")
    assert not differences_3mf(path, expected_of(run.pieces))
    spoil(path, run)
    found = differences_3mf(path, expected_of(run.pieces))
    assert any(said in difference.message for difference in found), found


def mirrored(piece: LaidPiece) -> LaidPiece:
    """The same piece as its own mirror image, with its skin still outside out."""
    data = piece.read("stl")
    mesh = trimesh.load_mesh(io.BytesIO(data), file_type="stl")
    centre = mesh.bounds.mean(axis=0)
    mesh.vertices[:, 0] = 2 * centre[0] - mesh.vertices[:, 0]
    mesh.invert()
    other = mesh.export(file_type="stl")
    return replace(piece, read=lambda ending: other if ending == "stl" else piece.read(ending))


@pytest.mark.parametrize("kind", ["stl", "glb"])
def test_other_files_that_differ_are_found(run: Run, tmp_path: Path, kind: str) -> None:
    def written(pieces: tuple[LaidPiece, ...]) -> Path:
        path = tmp_path / f"plate.{kind}"
        with path.open("wb") as out:
            if kind == "stl":
                write_plate_stl(out, pieces, title="x")
            else:
                write_plate_glb(out, pieces, title="x", colour="#888888")
        return path

    differences = {"stl": differences_stl, "glb": differences_glb}[kind]
    expected = expected_of(run.pieces)
    assert not differences(written(run.pieces), expected)
    first, second, third = run.pieces
    shifted = replace(first, place=replace(first.place, y_mm=first.place.y_mm + 0.02))
    for pieces, said in (
        ((shifted, second, third), "elsewhere"),
        ((mirrored(first), *(replace(p, shape_key=p.key) for p in (second, third))), "mirrored"),
        ((first, second), "missing" if kind == "glb" else ""),
        ((first, second, third, replace(third, key="Z")), "belong" if kind == "glb" else "facets"),
    ):
        found = differences(written(pieces), expected)
        assert any(said in difference.message for difference in found), (said, found)
    path = written(run.pieces)
    path.write_bytes(path.read_bytes()[:-40])
    assert differences(path, expected)


def test_a_run_that_differs_is_not_released(run: Run, tmp_path: Path) -> None:
    # The 3MF is of another piece than the STL: whoever keeps the pieces' files mixed them up.
    wrong, _ = laid("X", ring(), 0, 0)
    first = run.pieces[0]
    mixed = replace(first, shape_key="mixed", read=lambda e: wrong.read(e) if e == "3mf" else first.read(e))
    released = release(replace(run, pieces=(mixed, *run.pieces[1:])), tmp_path)
    assert not released.whole and not released.files
    assert {(d.file, d.key) for d in released.differences} == {("RESIN-1-0007.3mf", "A-1-1")}
    assert not list(tmp_path.iterdir())


def test_tables_are_harmless_and_in_order(run: Run, tmp_path: Path) -> None:
    release(run, tmp_path)
    text = (tmp_path / "RESIN-1-0007-pieces.csv").read_text("utf-8-sig")
    assert "'=SUM(1)" in text and text.splitlines()[1].startswith("1,A-1-1,")
    sheet = openpyxl.load_workbook(tmp_path / "RESIN-1-0007-pieces.xlsx").worksheets[0]
    assert sheet["C3"].value == "=SUM(1)" and sheet["C3"].data_type == "s"


def test_a_piece_that_lies_elsewhere_on_the_map_is_found(run: Run, tmp_path: Path) -> None:
    release(run, tmp_path)
    moved = [replace(m, outline=shifted(m.outline, 0.1, 0.0)) for m in run.marked]
    found = differences_svg_map(tmp_path / "RESIN-1-0007-map.svg", moved, PLATE.bed_mm[:2])
    assert len(found) == 3 and "0.10 mm elsewhere" in found[0].message


def test_the_map_on_paper_is_true_to_scale(run: Run, tmp_path: Path) -> None:
    """At 10 pixels a mm: the bar of 50 mm is 500 pixels long, the bed as wide as the station's."""
    release(run, tmp_path)
    page = pypdfium2.PdfDocument(tmp_path / "RESIN-1-0007-map.pdf")[0]
    grey = np.asarray(page.render(scale=254 / 72).to_pil().convert("L"))
    dark = grey < 120
    runs = []
    for row in dark:
        edges = np.flatnonzero(np.diff(np.concatenate(([0], row.astype(int), [0]))))
        runs += (edges[1::2] - edges[::2]).tolist()
    lengths = sorted(set(runs))
    assert max(lengths) == pytest.approx(1200, abs=4)
    assert any(abs(length - 500) <= 4 for length in lengths)


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        (
            lambda m, size: ([replace(m[0], outline=shifted(m[0].outline, 0.0, 1.5)), *m[1:]], size),
            "lies else",
        ),
        (lambda m, size: (m[:-1], size), "lies elsewhere"),
        (lambda m, size: ([replace(m[0], key=m[1].key), replace(m[1], key=m[0].key), m[2]], size), "another"),
        (lambda m, size: ([replace(m[0], key="Q-9"), *m[1:]], size), "code is missing"),
        (lambda m, size: (m, (size[0] + 5.0, size[1])), "instead of 1:1"),
    ],
    ids=["moved", "one more", "exchanged", "other code", "other size"],
)
def test_a_map_on_paper_that_differs_is_found(run: Run, tmp_path: Path, wrong, said: str) -> None:
    release(run, tmp_path)
    size = (PLATE.bed_mm[0], PLATE.bed_mm[1])
    path = tmp_path / "RESIN-1-0007-map.pdf"
    marks = list(marks_of(run.marked))
    assert not differences_pdf(path, run.marked, marks, size, facts=1)
    marked, size = wrong(run.marked, size)
    found = [difference.message for difference in differences_pdf(path, marked, marks, size, facts=1)]
    assert any(said in message for message in found), found


def test_a_piece_that_is_thinner_than_it_was_made_is_found(run: Run, tmp_path: Path) -> None:
    first = run.pieces[0]
    thin = replace(first, facts={**first.facts, "thinnest_mm": 2.0})
    assert release(replace(run, pieces=(thin, *run.pieces[1:])), tmp_path).whole
    thicker = replace(first, facts={**first.facts, "thinnest_mm": 2.1})
    released = release(replace(run, pieces=(thicker, *run.pieces[1:])), tmp_path)
    assert ["2.000 mm instead of 2.100" in d.message for d in released.differences] == [True]


@pytest.mark.skipif(shutil.which("rsvg-convert") is None, reason="needs rsvg-convert")
def test_the_map_on_screen_is_true_to_scale(run: Run, tmp_path: Path) -> None:
    """By librsvg: at 254 dpi a bed of 120 by 70 mm is 1200 by 700 pixels."""
    release(run, tmp_path)
    out = tmp_path / "map.png"
    subprocess.run(
        ["rsvg-convert", "-d", "254", "-p", "254", "-o", out, tmp_path / "RESIN-1-0007-map.svg"], check=True
    )
    from PIL import Image

    with Image.open(out) as picture:
        assert picture.size == (1200, 700)


def test_a_sheet_is_released_and_a_shifted_piece_is_found(tmp_path: Path) -> None:
    laser = shipped_machines()["LASER-1"]
    pieces = (
        flat_laid("A-1-1", 10, 10),
        flat_laid("A-1-2", 60, 40, 180.0),
        flat_laid("B", 100, 10, width=50.0),
    )
    run = Run(code="L", machine=laser, material="birch-plywood", thickness_mm=3.0, pieces=pieces,
              outlines=tuple(_outline(p) for p in pieces))  # fmt: skip
    released = release(run, tmp_path)
    assert released.whole, released.differences
    assert {"L.svg", "L.dxf", "L-settings.csv"} <= set(released.files)


def _outline(piece: LaidPiece):
    import shapely

    width = 50.0 if "width" in piece.shape_key else 30.0
    box = rotated(shapely.box(0, 0, width, 20), piece.place.turn_deg)
    return shifted(box, piece.place.x_mm, piece.place.y_mm)
