"""A shelf of logo files, found by the names that order lists use for them."""

from __future__ import annotations

import io
import unicodedata
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import partial

from kizami.artwork.artwork import Artwork
from kizami.artwork.pictures import LARGEST_PICTURE_BYTES, read_picture
from kizami.artwork.svg_files import read_svg
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
_KINDS = (".svg", ".png", ".jpg", ".jpeg")


def read_logo(data: bytes, *, name: str, threshold: float | None = None) -> Artwork:
    """A logo from a file, told by its content and not by its name.

    Raises
    ------
    ArtworkError : it can't be used; says why
    """
    return _read_logo(data, name, threshold)


@remembered
def _read_logo(data: bytes, name: str, threshold: float | None) -> Artwork:
    if data.startswith((b"\x89PNG", b"\xff\xd8")):
        return read_picture(data, name=name, threshold=threshold)
    if b"<" in data[:1000]:
        return read_svg(data, name=name)
    raise ArtworkError(f"“{name}” is neither an SVG nor a PNG or JPEG picture.")


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
    """

    files: Mapping[str, Callable[[], tuple[bytes, str, float | None]]] = field(default_factory=dict)

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
        raise ArtworkError("is neither an SVG nor a PNG or JPEG picture")
    if entry.flag_bits & 1:
        raise ArtworkError("is locked with a password")
    with pack.open(entry) as file:
        content = file.read(LARGEST_PICTURE_BYTES + 1)
    if len(content) > LARGEST_PICTURE_BYTES:
        raise ArtworkError(f"is larger than {LARGEST_PICTURE_BYTES // 1024 // 1024} MB")
    return content
