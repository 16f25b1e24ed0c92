"""The files of a plate: 3MF with one named object a piece, STL and GLB of the whole. Piece after piece, so
that memory does not grow with their number; the same plate gives the same bytes."""

from __future__ import annotations

import json
import re
import struct
import zipfile
from collections.abc import Sequence
from typing import IO
from xml.sax.saxutils import escape, quoteattr

import numpy as np
import numpy.typing as npt

from kizami.errors import RunError
from kizami.formats.glb import linear_rgb
from kizami.formats.stl import FACET, facets_of
from kizami.formats.three_mf import CONTENT_TYPES, LEVEL, ZIP_DATE
from kizami.runs.body import Body, body_of, model_text, moved
from kizami.runs.laid_piece import LaidPiece
from kizami.surfaces.protocol import FloatArray

__all__ = ["placed_facets", "write_plate_3mf", "write_plate_glb", "write_plate_stl"]

_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="rel0" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/>'
    '<Relationship Target="/Metadata/thumbnail.png" Id="rel1" '
    'Type="http://schemas.openxmlformats.org/package/2006/relationships/metadata/thumbnail"/>'
    "</Relationships>"
)
_TYPES = CONTENT_TYPES.replace("</Types>", '<Default Extension="png" ContentType="image/png"/></Types>')
_OBJECT = re.compile(
    rb"<object id=\"1\"[^>]*?(?P<uses> pid=\"2\" pindex=\"0\")?>(?P<mesh><mesh>.*</mesh>)</object>", re.S
)
_MATERIALS = re.compile(rb'<basematerials id="2">(?P<bases>.*?)</basematerials>', re.S)


def write_plate_3mf(out: IO[bytes], pieces: Sequence[LaidPiece], *, title: str, thumbnail: bytes) -> None:
    """A 3MF package in mm: a mesh for each kind of piece, and for each piece an object with its name and
    ticket code that puts it where it lies.

    Parameters
    ----------
    thumbnail : a PNG of the plate

    Raises
    ------
    RunError : a piece's own file is damaged
    """
    with zipfile.ZipFile(out, "w") as package:
        _put(package, "[Content_Types].xml", _TYPES.encode())
        _put(package, "_rels/.rels", _RELATIONS.encode())
        _put(package, "Metadata/thumbnail.png", thumbnail)
        entry = _entry("3D/3dmodel.model")
        with package.open(entry, "w") as model:
            model.write(
                b'<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en-US" '
                b'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
                + f'<metadata name="Title">{escape(_printable(title))}</metadata><resources>'.encode()
            )
            _write_objects(model, pieces)


def _write_objects(model: IO[bytes], pieces: Sequence[LaidPiece]) -> None:
    """Meshes first, each once; then an object for each piece; then where they stand."""
    meshes: dict[str, int] = {}
    materials: dict[bytes, int] = {}
    number = 1
    items: list[str] = []
    for piece in pieces:
        if piece.shape_key not in meshes:
            text = model_text(piece.read("3mf"))
            found, bases = _OBJECT.search(text), _MATERIALS.search(text)
            if found is None:
                raise RunError(f"The 3MF of {piece.key} is not as it was made. Make the piece again.")
            mesh, uses = found["mesh"], b""
            if bases is not None and found["uses"]:
                if bases["bases"] not in materials:
                    materials[bases["bases"]] = number
                    model.write(b'<basematerials id="%d">%s</basematerials>' % (number, bases["bases"]))
                    number += 1
                colour = materials[bases["bases"]]
                uses = b' pid="%d" pindex="0"' % colour
                mesh = mesh.replace(b' pid="2" ', b' pid="%d" ' % colour)
            meshes[piece.shape_key] = number
            model.write(b'<object id="%d" type="model"%s>' % (number, uses))
            model.write(mesh)
            model.write(b"</object>")
            number += 1
        name, code = (quoteattr(_printable(text)) for text in (piece.title, piece.key))
        model.write(
            f'<object id="{number}" type="model" name={name} partnumber={code}><components>'
            f'<component objectid="{meshes[piece.shape_key]}"/></components></object>'.encode()
        )
        items.append(f'<item objectid="{number}" partnumber={code} transform="{_transform(piece)}"/>')
        number += 1
    model.write(f"</resources><build>{''.join(items)}</build></model>".encode())


def _transform(piece: LaidPiece) -> str:
    """As 3MF writes it: for rows, that is turned about its diagonal, the shift last."""
    turn, shift = piece.to_bed
    return " ".join(f"{value:.9g}" for value in (*turn.T.ravel(), *np.round(shift, 5)))


def _printable(text: str) -> str:
    return "".join(c for c in text if c.isprintable())


def write_plate_stl(out: IO[bytes], pieces: Sequence[LaidPiece], *, title: str) -> None:
    """All pieces where they lie in one binary STL, in the order given.

    Raises
    ------
    RunError : a piece's own file is damaged
    """
    out.write(f"Kizami {title}".encode("ascii", "replace")[:80].ljust(80, b" ") + struct.pack("<I", 0))
    count = 0
    for piece in pieces:
        facets = placed_facets(facets_of(piece.read("stl")), *piece.to_bed)
        out.write(facets.tobytes())
        count += len(facets)
    out.seek(80)
    out.write(struct.pack("<I", count))
    out.seek(0, 2)


def placed_facets(corners: FloatArray, turn: FloatArray, shift: FloatArray) -> npt.NDArray[np.void]:
    """Facets as a binary STL has them, of corners (n, 3, 3) that are turned and shifted."""
    facets = np.zeros(len(corners), dtype=FACET)
    facets["corners"] = moved(corners.reshape(-1, 3), turn, shift).reshape(-1, 3, 3)
    a, b, c = (facets["corners"][:, k].astype(np.float64) for k in range(3))
    normals = np.cross(b - a, c - a)
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    facets["normal"] = np.divide(normals, lengths, out=normals, where=lengths > 0)
    return facets


def write_plate_glb(out: IO[bytes], pieces: Sequence[LaidPiece], *, title: str, colour: str) -> None:
    """All pieces as one binary glTF 2.0: a node with its name for each piece, equal pieces share their mesh.

    glTF counts in metres with y up (its specification, section 3.4).
    """
    bodies: dict[str, Body] = {}
    for piece in pieces:
        if piece.shape_key not in bodies:
            bodies[piece.shape_key] = body_of(piece.read("stl"))
    number = {key: index for index, key in enumerate(bodies)}
    views, accessors, offset = [], [], 0
    for body in bodies.values():
        points = (body.points / 1000.0).astype("<f4")
        for size, target in ((points.nbytes, 34962), (body.faces.size * 4, 34963)):
            views.append({"buffer": 0, "byteOffset": offset, "byteLength": size, "target": target})
            offset += size
        accessors += [
            {
                "bufferView": len(views) - 2, "componentType": 5126, "count": len(points), "type": "VEC3",
                "min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist(),
            },
            {"bufferView": len(views) - 1, "componentType": 5125, "count": int(body.faces.size),
                "type": "SCALAR",
            },
        ]  # fmt: skip
    document = {
        "asset": {"version": "2.0", "generator": "Kizami"},
        "scene": 0,
        "scenes": [{"nodes": list(range(len(pieces))), "name": title}],
        "nodes": [{"mesh": number[p.shape_key], "name": p.title, "matrix": _gltf_matrix(p)} for p in pieces],
        "meshes": [
            {"primitives": [{"attributes": {"POSITION": 2 * k}, "indices": 2 * k + 1, "material": 0}]}
            for k in range(len(bodies))
        ],
        "materials": [
            {
                "pbrMetallicRoughness": {
                    "baseColorFactor": [*(round(c, 6) for c in linear_rgb(colour)), 1.0],
                    "metallicFactor": 0.0,
                    "roughnessFactor": 0.6,
                }
            }
        ],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": offset}],
    }
    text = json.dumps(document, separators=(",", ":"), ensure_ascii=True).encode()
    text += b" " * (-len(text) % 4)
    out.write(struct.pack("<4sII", b"glTF", 2, 28 + len(text) + offset))
    out.write(struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", offset, b"BIN\0"))
    for body in bodies.values():
        out.write((body.points / 1000.0).astype("<f4").tobytes())
        out.write(body.faces.astype("<u4").tobytes())


def _gltf_matrix(piece: LaidPiece) -> list[float]:
    """Column by column, with y up and metres."""
    turn, shift = piece.to_bed
    up = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]])
    matrix = np.eye(4)
    matrix[:3, :3] = up @ turn
    matrix[:3, 3] = up @ shift / 1000.0
    return [float(x) for x in matrix.T.ravel()]


def _entry(name: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(name, date_time=ZIP_DATE)
    entry.external_attr = 0o644 << 16
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry._compresslevel = LEVEL  # type: ignore[attr-defined]
    return entry


def _put(package: zipfile.ZipFile, name: str, data: bytes) -> None:
    package.writestr(_entry(name), data, zipfile.ZIP_DEFLATED, LEVEL)
