"""One piece of every product of the demo shop, its files read back by three libraries that know nothing of us."""

from __future__ import annotations

import io
import math
from pathlib import Path

import meshio
import numpy as np
import pytest
import trimesh
from lib3mf import get_wrapper

from kizami.artwork.shelf import Shelf
from kizami.cli import catalogue_at
from kizami.pieces.batch import piece_files, resolve_list
from kizami.pieces.lines import Line
from kizami.pieces.make import Made, make_piece
from launch.state import REPOSITORY

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
CODES = sorted(product.code for product in CATALOGUE.products.values())
LOGOS = Shelf.of({p.name: p.read_bytes() for p in (REPOSITORY / "demo" / "logos").iterdir()})


@pytest.fixture(scope="module")
def lines() -> list[Line]:
    found, _ = resolve_list((REPOSITORY / "demo" / "orders.csv").read_bytes(), CATALOGUE, logos=LOGOS)
    return found


def ready_piece(lines: list[Line], code: str) -> Made:
    """The first line of a product in the demo's list that can be made as it is."""
    of_product = (line for line in lines if line.inputs.product.code == code)
    return next(
        piece for piece in map(make_piece, (line.inputs for line in of_product)) if piece.stage == "ready"
    )


@pytest.mark.parametrize("code", CODES)
def test_its_files_say_the_same_to_every_reader(lines: list[Line], code: str, tmp_path: Path) -> None:
    piece = ready_piece(lines, code)
    solid, files = piece.solid, piece_files(piece, title=code)
    assert solid is not None and solid.bodies == 1

    # By trimesh: closed, outward, the right volume.
    mesh = trimesh.load(io.BytesIO(files["stl"]), file_type="stl")
    mesh.merge_vertices(digits_vertex=6)
    assert mesh.is_volume
    # A pattern is larger by its allowance in every direction.
    larger = 1.0 + piece.laid_out.inputs.product.allowance_percent / 100.0
    assert mesh.volume == pytest.approx(solid.volume_mm3 * larger**3, rel=1e-4)

    # Euler, and Gauss and Bonnet: what the corners lack of a full turn adds up to 4 pi (1 - g).
    assert mesh.euler_number == 2 - 2 * solid.genus
    assert mesh.vertex_defects.sum() == pytest.approx(4 * math.pi * (1 - solid.genus), abs=1e-3)

    # By meshio: as many facets, and by the divergence theorem the same volume.
    path = tmp_path / "piece.stl"
    path.write_bytes(files["stl"])
    read = meshio.read(path)
    corners = read.points[read.cells_dict["triangle"]]
    assert len(corners) == len(solid.triangles)
    inside = np.einsum("nd,nd->n", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    assert inside == pytest.approx(solid.volume_mm3 * larger**3, rel=1e-3)

    # By lib3mf, strictly.
    model = get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(files["3mf"])
    assert reader.GetWarningCount() == 0
    objects = model.GetMeshObjects()
    assert objects.MoveNext()
    mesh_object = objects.GetCurrentMeshObject()
    assert mesh_object.GetTriangleCount() == len(solid.triangles)
    assert mesh_object.IsManifoldAndOriented()
