"""The files of made pieces. One that is lost or damaged is made again, byte for byte."""

from __future__ import annotations

from typing import Any

from kizami.pieces.batch import piece_files
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece
from workshop.files.errors import LostFileError
from workshop.files.models import Kind, StoredFile

__all__ = ["file_of", "keep_files"]


def keep_files(made: Made) -> dict[str, dict[str, Any]]:
    """Keep a piece's files; equal pieces share them.

    Returns
    -------
    by extension: size in bytes and SHA-256
    """
    files = piece_files(made, title=made.laid_out.inputs.wording)
    kept = StoredFile.objects.keep_all(files, Kind.MADE)
    return {extension: {"size": file.size, "sha256": file.sha256} for extension, file in kept.items()}


def file_of(inputs: Inputs, extension: str, expected: dict[str, Any]) -> bytes | None:
    """A piece's file, made again when it is missing or damaged; None for a piece without a solid.

    Parameters
    ----------
    inputs : what the piece was made from
    expected : as `keep_files` returned it
    """
    if extension not in expected:
        return None
    known = expected[extension]
    file = StoredFile(sha256=known["sha256"], size=known["size"], kind=Kind.MADE)
    try:
        return file.read()
    except LostFileError:
        made = make_piece(inputs)
        file.forget()
        keep_files(made)
        return piece_files(made, title=inputs.as_set.wording)[extension]
