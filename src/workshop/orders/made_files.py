"""Made files, named by the fingerprint of what they were made from.

Equal pieces share their files. A file that is missing or was cut short by a crash is made again,
as a piece is a pure function of its inputs.
"""

from __future__ import annotations

import hashlib
from typing import Any

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage

from kizami.pieces.batch import piece_files
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece

__all__ = ["file_of", "keep_files"]


def _path(fingerprint: str, extension: str) -> str:
    return f"made/{fingerprint[:2]}/{fingerprint}.{extension}"


def keep_files(made: Made) -> dict[str, dict[str, Any]]:
    """Write a piece's files.

    Returns
    -------
    by extension: size in bytes and SHA-256, to tell later whether a file is whole
    """
    written = {}
    for extension, content in piece_files(made, title=made.laid_out.inputs.wording).items():
        path = _path(made.fingerprint, extension)
        if not default_storage.exists(path) or default_storage.size(path) != len(content):
            default_storage.save(path, ContentFile(content))
        written[extension] = {"size": len(content), "sha256": hashlib.sha256(content).hexdigest()}
    return written


def file_of(inputs: Inputs, fingerprint: str, extension: str, expected: dict[str, Any]) -> bytes | None:
    """A piece's file, made again when it is missing or damaged; None for a piece without a solid."""
    if extension not in expected:
        return None
    path = _path(fingerprint, extension)
    if default_storage.exists(path):
        with default_storage.open(path) as file:
            content: bytes = file.read()
        if hashlib.sha256(content).hexdigest() == expected[extension]["sha256"]:
            return content
    made = make_piece(inputs)
    keep_files(made)
    return piece_files(made, title=inputs.wording)[extension]
