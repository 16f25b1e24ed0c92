"""Binary glTF 2.0 with the colours of body and lettering, for pictures and viewers that know colour.

glTF counts in metres with y up (its specification, section 3.4), so the piece is turned and scaled.
"""

from __future__ import annotations

import json
import struct

import numpy as np
import numpy.typing as npt

from kizami.errors import SolidError
from kizami.solids.solid import Solid

__all__ = ["glb_bytes", "glb_mesh", "linear_rgb"]

_FLOAT, _UINT = 5126, 5125
_ARRAY, _ELEMENTS = 34962, 34963


def linear_rgb(colour: str) -> tuple[float, float, float]:
    """A colour as written on screens in linear light, as glTF wants it (IEC 61966-2-1, from memory).

    >>> [round(c, 4) for c in linear_rgb("#ff8000")]
    [1.0, 0.2159, 0.0]
    """
    shares = (int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in shares)
    return (red, green, blue)


def glb_bytes(solid: Solid, *, title: str, body: str, lettering: str) -> bytes:
    """The solid as one mesh with a part for the body and one for the lettering.

    Parameters
    ----------
    body, lettering : colours as #rrggbb
    """
    x, y, z = (solid.vertices[:, i] / np.float32(1000.0) for i in range(3))
    points = np.ascontiguousarray(np.column_stack((x, z, -y)), dtype="<f4")
    parts = [
        (name, colour, solid.triangles[chosen])
        for name, colour, chosen in (
            ("body", body, ~solid.is_lettering),
            ("lettering", lettering, solid.is_lettering),
        )
        if chosen.any()
    ]
    chunks: list[npt.NDArray[np.generic]] = [points]
    chunks += [np.ascontiguousarray(triangles, dtype="<u4") for _, _, triangles in parts]
    views, offset = [], 0
    for number, chunk in enumerate(chunks):
        target = _ELEMENTS if number else _ARRAY
        views.append({"buffer": 0, "byteOffset": offset, "byteLength": chunk.nbytes, "target": target})
        offset += chunk.nbytes
    accessors = [
        {
            "bufferView": 0, "componentType": _FLOAT, "count": len(points), "type": "VEC3",
            "min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist(),
        }
    ]  # fmt: skip
    accessors += [
        {"bufferView": i + 1, "componentType": _UINT, "count": 3 * len(triangles), "type": "SCALAR"}
        for i, (_, _, triangles) in enumerate(parts)
    ]
    document = {
        "asset": {"version": "2.0", "generator": "Kizami"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": title}],
        "meshes": [
            {
                "name": title,
                "primitives": [
                    {"attributes": {"POSITION": 0}, "indices": i + 1, "material": i}
                    for i in range(len(parts))
                ],
            }
        ],
        "materials": [
            {
                "name": name,
                "pbrMetallicRoughness": {
                    "baseColorFactor": [*(round(c, 6) for c in linear_rgb(colour)), 1.0],
                    "metallicFactor": 0.0,
                    "roughnessFactor": 0.6,
                },
            }
            for name, colour, _ in parts
        ],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": offset}],
    }
    text = json.dumps(document, separators=(",", ":"), ensure_ascii=True).encode()
    text += b" " * (-len(text) % 4)
    data = b"".join(chunk.tobytes() for chunk in chunks)
    size = 12 + 8 + len(text) + 8 + len(data)
    return b"".join(
        (
            struct.pack("<4sII", b"glTF", 2, size),
            struct.pack("<I4s", len(text), b"JSON"), text,
            struct.pack("<I4s", len(data), b"BIN\0"), data,
        )
    )  # fmt: skip


def glb_mesh(
    data: bytes,
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.uint32], npt.NDArray[np.bool_]]:
    """Vertices in mm with z up, triangles, and which of them are lettering, of what `glb_bytes` wrote.

    Raises
    ------
    SolidError : it is not whole, or was written by somebody else
    """
    try:
        kind, _, size = struct.unpack_from("<4sII", data)
        (length,) = struct.unpack_from("<I", data, 12)
        document = json.loads(data[20 : 20 + length])
        views = document["bufferViews"]
        parts = document["meshes"][0]["primitives"]
        names = [document["materials"][part["material"]]["name"] for part in parts]
        start = 28 + length
        chunks = [
            np.frombuffer(data, dtype="<u4" if number else "<f4", offset=start + view["byteOffset"],
                          count=view["byteLength"] // 4).reshape(-1, 3)
            for number, view in enumerate(views)
        ]  # fmt: skip
    except (struct.error, ValueError, KeyError, IndexError, TypeError) as error:
        raise SolidError("The file of the piece is not whole; make it again.") from error
    if kind != b"glTF" or size != len(data):
        raise SolidError("The file of the piece is not whole; make it again.")
    x, y, z = (chunks[0][:, i] * 1000.0 for i in range(3))
    flags = [np.full(len(chunk), name == "lettering") for chunk, name in zip(chunks[1:], names, strict=True)]
    return np.column_stack((x, -z, y)), np.vstack(chunks[1:]), np.concatenate(flags)
