"""QR (ISO/IEC 18004) and Data Matrix (ISO/IEC 16022) codes as outlines, for pet and key tags."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import segno
import shapely
from ppf.datamatrix import DataMatrix
from segno.encoder import DataOverflowError

from kizami.artwork.artwork import Artwork, artwork_of
from kizami.errors import ArtworkError
from kizami.outlines.curves import bodies_of
from kizami.remembering import remembered

__all__ = ["LONGEST_CODE", "square_code"]

#: More than this makes modules too fine for anything that is cast or cut on a tag.
LONGEST_CODE = 300


@remembered
def square_code(text: str, *, kind: str) -> Artwork:
    """A code for a text, without the quiet zone around it, which is the clearance's work.

    Parameters
    ----------
    kind : “QR code” or “Data Matrix”

    Returns
    -------
    Artwork with `modules`: how many modules it is high

    Raises
    ------
    ArtworkError : more text than such a code can carry
    """
    if len(text) > LONGEST_CODE:
        raise ArtworkError(
            f"The code has {len(text)} characters; at most {LONGEST_CODE} can be read off a tag."
        )
    if kind != "QR code" and not text.isascii():
        odd = next(c for c in text if not c.isascii())
        raise ArtworkError(
            f"A Data Matrix carries plain letters, digits and signs, but not “{odd}”. Use a QR code for it."
        )
    try:
        if kind == "QR code":
            matrix = np.array([list(row) for row in segno.make_qr(text, error="m").matrix], dtype=bool)
        else:
            matrix = np.array(DataMatrix(text).matrix, dtype=bool)
    except (DataOverflowError, ValueError, IndexError) as error:
        raise ArtworkError(f"“{text[:30]}” can't be written as a {kind}: {error}.") from error
    # Modules that meet only at a corner would leave a body that hangs by a point; a hair's breadth
    # of overlap makes every dark module one with its diagonal neighbours.
    hair = 0.01
    boxes = [
        shapely.box(x - hair, y - hair, x + 1 + hair, y + 1 + hair)
        for y, x in zip(*np.nonzero(matrix), strict=True)
    ]
    shape = bodies_of(*boxes)
    artwork = artwork_of(shape, name=kind)
    return replace(artwork, modules=len(matrix))
