"""A shelf of logo files, found by the names that order lists use for them."""

from __future__ import annotations

import io
import unicodedata
import zipfile
import zlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import partial

from kizami.artwork.artwork import Artwork
from kizami.artwork.pictures import LARGEST_PICTURE_BYTES, read_picture
from kizami.artwork.svg_files import LARGEST_SVG_BYTES, read_svg
from kizami.errors import ArtworkError
from kizami.remembering import remembered

__all__ = [
    "EMPTY_SHELF",
    "LARGEST_PARCEL_BYTES",
    "MOST_FILES",
    "Parcel",
    "Shelf",
    "fold_file_name",
    "read_logo",
    "unpack_logos",
]

MOST_FILES = 500
LARGEST_PARCEL_BYTES = 64 * 1024 * 1024
_LARGEST_UNPACKED_BYTES = 128 * 1024 * 1024
_KINDS = (".svg", ".svgz", ".png", ".jpg", ".jpeg", ".gif", ".webp")
_PICTURES, _PACKED = (b"\x89PNG", b"\xff\xd8", b"GIF8"), b"\x1f\x8b"
#: What customers send instead, by how it begins.
_OTHERS = {
    b"%PDF": "a PDF", b"%!PS": "a PostScript file", b"BM": "a BMP picture", b"II*\x00": "a TIFF picture",
    b"MM\x00*": "a TIFF picture", b"8BPS": "a layered picture of a drawing program", b"PK": "a zip of files",
    b"\x00\x00\x01\x00": "an icon file",
}  # fmt: skip


def read_logo(data: bytes, *, name: str, threshold: float | None = None) -> Artwork:
    """A logo from a file, told by its content and not by its name.

    Raises
    ------
    ArtworkError : it can't be used; says why
    """
    return _read_logo(data, name, threshold)


@remembered
def _read_logo(data: bytes, name: str, threshold: float | None) -> Artwork:
    if data.startswith(_PICTURES) or (data.startswith(b"RIFF") and data[8:12] == b"WEBP"):
        return read_picture(data, name=name, threshold=threshold)
    if data.startswith(_PACKED):
        data = _unpacked_svg(data, name)
    if b"<" in data[:1000]:
        return read_svg(data, name=name)
    known = next((kind for start, kind in _OTHERS.items() if data.startswith(start)), "")
    told = (
        f"is {known}, which can't be read as a logo" if known else "is no drawing or picture that can be read"
    )
    raise ArtworkError(f"“{name}” {told}. Send it as SVG, PNG, JPEG, GIF or WebP.")


def _unpacked_svg(data: bytes, name: str) -> bytes:
    """A drawing that was packed, up to a byte more than may be read."""
    unpacker = zlib.decompressobj(wbits=31)
    damaged = ArtworkError(f"“{name}” is a packed file that is damaged.")
    try:
        drawing = unpacker.decompress(data, LARGEST_SVG_BYTES + 1)
    except zlib.error as error:
        raise damaged from error
    if not unpacker.eof and len(drawing) <= LARGEST_SVG_BYTES:
        raise damaged
    return drawing


def fold_file_name(name: str) -> str:
    """A file name as it is compared: no folders, no ending, letter case and spaces do not matter.

    >>> fold_file_name("Logos/Heron Badge.SVG") == fold_file_name("heron  badge")
    True
    """
    last = unicodedata.normalize("NFC", name).replace("\\", "/").rsplit("/", 1)[-1].strip()
    for kind in _KINDS:
        if last.casefold().endswith(kind):
            last = last[: -len(kind)]
            break
    return " ".join(last.split()).casefold()


@dataclass(frozen=True, kw_only=True, slots=True)
class Shelf:
    """Logos by folded file name; each is read when it is first asked for.

    Attributes
    ----------
    files : folded name -> how to get its content and what it is called
    out_of_use : folded names of those that stand here for nobody any more
    """

    files: Mapping[str, Callable[[], tuple[bytes, str, float | None]]] = field(default_factory=dict)
    out_of_use: frozenset[str] = frozenset()

    def why_not(self, name: str) -> str:
        """Why there is no logo of this name, in words.

        >>> Shelf(out_of_use=frozenset({"crest"})).why_not("Crest.svg")
        'The logo “Crest.svg” is out of use; take it into use again, or send another file of that name.'
        """
        said = name[:60]
        if fold_file_name(name) in self.out_of_use:
            return (
                f"The logo “{said}” is out of use; take it into use again, or send another file of that name."
            )
        return f"The logo “{said}” is not here yet; add the file."

    def find(self, name: str) -> Artwork | None:
        """The logo of this file name, or None when it is not here.

        Raises
        ------
        ArtworkError : it is here but can't be used
        """
        source = self.files.get(fold_file_name(name))
        if source is None:
            return None
        data, called, threshold = source()
        return read_logo(data, name=called, threshold=threshold)

    @classmethod
    def of(cls, files: Mapping[str, bytes]) -> Shelf:
        """A shelf of files by name."""
        return cls(
            files={fold_file_name(name): partial(_content, data, name) for name, data in files.items()}
        )


def _content(data: bytes, name: str) -> tuple[bytes, str, float | None]:
    return data, name, None


EMPTY_SHELF = Shelf()


@dataclass(frozen=True, kw_only=True, slots=True)
class Parcel:
    """Files that came together.

    Attributes
    ----------
    files : by name, in order
    refused : name -> why it was left out
    """

    files: Mapping[str, bytes]
    refused: Mapping[str, str]


def unpack_logos(data: bytes, *, name: str) -> Parcel:
    """The logo files in a zip, or a single one. Names with folders keep only their last part.

    Raises
    ------
    ArtworkError : no zip, locked, or a trap
    """
    if not data.startswith(b"PK"):
        return Parcel(files={name: data}, refused={})
    if len(data) > LARGEST_PARCEL_BYTES:
        raise ArtworkError(
            f"“{name}” is larger than {LARGEST_PARCEL_BYTES // 1024 // 1024} MB. Send it in parts."
        )
    files: dict[str, bytes] = {}
    refused: dict[str, str] = {}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as pack:
            entries = [e for e in pack.infolist() if not e.is_dir()]
            if len(entries) > MOST_FILES:
                raise ArtworkError(
                    f"“{name}” holds {len(entries)} files; at most {MOST_FILES} can be taken at once."
                )
            if sum(e.file_size for e in entries) > _LARGEST_UNPACKED_BYTES:
                most = _LARGEST_UNPACKED_BYTES // 1024 // 1024
                raise ArtworkError(
                    f"“{name}” unpacks to more than {most} MB. It was not opened: send it in parts."
                )
            for entry in entries:
                last = entry.filename.replace("\\", "/").rsplit("/", 1)[-1]
                if last.startswith(".") or "__MACOSX" in entry.filename:
                    continue
                try:
                    files[last] = _unpacked(pack, entry, last)
                except ArtworkError as error:
                    refused[last] = str(error)
    except (zipfile.BadZipFile, NotImplementedError, EOFError, OSError, ValueError, RuntimeError) as error:
        raise ArtworkError(f"“{name}” is a damaged zip. Pack it again.") from error
    return Parcel(files=files, refused=refused)


def _unpacked(pack: zipfile.ZipFile, entry: zipfile.ZipInfo, name: str) -> bytes:
    """The content of one entry; what it says of its size may be a lie, so no more than the limit is read."""
    if not name.casefold().endswith(_KINDS):
        raise ArtworkError("is no drawing or picture that can be read")
    if entry.flag_bits & 1:
        raise ArtworkError("is locked with a password")
    with pack.open(entry) as file:
        content = file.read(LARGEST_PICTURE_BYTES + 1)
    if len(content) > LARGEST_PICTURE_BYTES:
        raise ArtworkError(f"is larger than {LARGEST_PICTURE_BYTES // 1024 // 1024} MB")
    return content
