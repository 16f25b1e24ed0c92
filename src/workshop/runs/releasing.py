"""Writing a locked run's files, reading them back, and handing them over as one zip."""

from __future__ import annotations

import tempfile
import time
import zipfile
from pathlib import Path

from django.core.files import File
from django.db import transaction
from django.db.models import F

from kizami.counting import so_many
from kizami.errors import KizamiError, StoppedError
from kizami.formats.three_mf import ZIP_DATE
from kizami.runs.release import release
from kizami.runs.telling import Seen, Told
from workshop.files.errors import LostFileError
from workshop.files.models import Kind, StoredFile
from workshop.runs.models import Run
from workshop.runs.rows import core_run

__all__ = ["release_run"]

_MOST_ATTEMPTS = 3
_TELL_EVERY_S = 0.5


def release_run(run_pk: int) -> None:
    """Write a run's files. Killed at any moment it begins again; nothing is offered before all is proven."""
    writing = Run.objects.filter(pk=run_pk, standing="locked", files_state__in=("waiting", "writing"))
    if not writing.update(attempts=F("attempts") + 1, files_state=Run.Files.WRITING, done=0):
        return
    run = writing.select_related("station", "remnant").get()
    if run.attempts > _MOST_ATTEMPTS:
        _refuse(run_pk, "Writing the files broke off three times. Take some pieces out and lock it again.")
        return
    placements = list(run.placements.live().with_pieces().select_related("revision"))
    trouble = "Something went wrong; it is on record. Unlock the run and lock it again."
    try:
        with tempfile.TemporaryDirectory() as folder:
            released = release(core_run(run, placements), Path(folder), step=_teller(run_pk))
            if not released.whole:
                first = released.differences[0]
                about = f" of {first.key}" if first.key else ""
                trouble = (
                    f"{first.file}{about}: {first.message}. "
                    f"{so_many(len(released.differences), 'difference')} in all; "
                    "no file is offered. Unlock the run, take the piece out and lock it again."
                )
                return
            with tempfile.TemporaryFile() as out:
                contents = _zip(Path(folder), released.files, out)
                with transaction.atomic():
                    file = StoredFile.objects.keep_stream(File(out), Kind.RUN)
                    writing.update(
                        files_state=Run.Files.RELEASED, files_said="", file=file, contents=contents
                    )
            trouble = ""
    except StoppedError:
        trouble = ""
    except (KizamiError, LostFileError) as error:
        trouble = str(error)
    except OSError as error:
        trouble = f"The files could not be written: {error.strerror or error}. Make room, lock it again."
    finally:
        if trouble:
            _refuse(run_pk, trouble)


def _refuse(run_pk: int, why: str) -> None:
    Run.objects.filter(pk=run_pk, files_state__in=("waiting", "writing")).update(
        files_state=Run.Files.REFUSED, files_said=why[:500], file=None, contents=[]
    )


def _teller(run_pk: int) -> Told:
    last = 0.0

    def told(done: int, total: int, said: str, _: Seen | None = None, /) -> None:
        nonlocal last
        if time.monotonic() - last < _TELL_EVERY_S:
            return
        last = time.monotonic()
        rows = Run.objects.filter(pk=run_pk, standing="locked", files_state=Run.Files.WRITING)
        if not rows.update(done=done, total=total, files_said=said[:500]):
            raise StoppedError("The run was unlocked.")

    return told


def _zip(folder: Path, names: tuple[str, ...], out: object) -> list[dict[str, object]]:
    """All files in one zip with a fixed date; returns what is in it."""
    contents: list[dict[str, object]] = []
    with zipfile.ZipFile(out, "w") as package:  # type: ignore[call-overload]
        for name in names:
            path = folder / name
            entry = zipfile.ZipInfo(name, ZIP_DATE)
            entry.external_attr = 0o644 << 16
            # What is packed already is not packed again.
            packed = path.suffix in (".3mf", ".xlsx", ".png")
            entry.compress_type = zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED
            with path.open("rb") as file, package.open(entry, "w", force_zip64=True) as inside:
                while chunk := file.read(1 << 20):
                    inside.write(chunk)
            contents.append({"name": name, "size": path.stat().st_size})
    return contents
