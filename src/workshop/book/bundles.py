"""Packing the files of ready pieces: whole or not there, and twice the same bytes."""

from __future__ import annotations

import re
import tempfile
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from typing import IO, Any

from django.contrib.auth.models import User
from django.core.files import File
from django.db import transaction
from django.db.models import F

from kizami.formats.tables import csv_bytes
from kizami.formats.three_mf import ZIP_DATE
from kizami.pieces.lines import piece_name
from kizami.wording.order_list import LARGEST_LIST_ROWS
from workshop.book.models import Bundle
from workshop.files.models import Kind, StoredFile
from workshop.making.made_files import file_of
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

__all__ = [
    "LARGEST_BUNDLE_BYTES",
    "LARGEST_BUNDLE_PIECES",
    "BundleError",
    "ask_for_bundle",
    "forget_past_bundles",
    "pack",
]

LARGEST_BUNDLE_PIECES = 10_000
LARGEST_BUNDLE_BYTES = 2 * 1024**3
_MOST_ATTEMPTS = 3
_TELL_EVERY = 20
_HEADER = ("order", "line", "product", "size", "wording", "quantity", "stage", "height mm", "weight g",
           "files", "worst finding", "made all the same", "looser limits")  # fmt: skip


class BundleError(Exception):
    """Nothing can be packed; the message says why and what to do."""


def ask_for_bundle(lines: Sequence[int], *, name: str, user: User) -> Bundle:
    """Ask for the ready pieces of lines to be packed in the background.

    Raises
    ------
    BundleError : more than may be, or nothing is ready
    """
    from workshop.book.tasks import pack_bundle

    if len(lines) > LARGEST_LIST_ROWS:
        raise BundleError(f"More than {LARGEST_LIST_ROWS:,} lines. Choose a list or type a filter first.")
    ready = OrderLine.objects.filter(pk__in=lines, stage=Stage.READY)
    pieces = sum(ready.values_list("quantity", flat=True))
    if not pieces:
        raise BundleError("Nothing of it is ready, so there is nothing to pack. Held lines come first.")
    if pieces > LARGEST_BUNDLE_PIECES:
        raise BundleError(
            f"These are {pieces:,} pieces; at most {LARGEST_BUNDLE_PIECES:,} go into one bundle. "
            "Choose a list or type a filter first."
        )
    with transaction.atomic():
        bundle = Bundle.objects.create(asked_by=user, name=name[:120], lines=list(lines), total=len(lines))
        pack_bundle.configure(queueing_lock=f"bundle-{bundle.pk}").defer(bundle_pk=bundle.pk)
    return bundle


def pack(bundle_pk: int) -> None:
    """Pack a bundle. Killed at any moment it is packed from the beginning; the third time it is given up."""
    bundle = Bundle.objects.filter(pk=bundle_pk).first()
    # The job may run twice at once; what one of them has made whole the other leaves alone.
    going_on = Bundle.objects.going_on(bundle_pk)
    if bundle is None or not going_on.update(attempts=F("attempts") + 1, state=Bundle.State.PACKING, done=0):
        return
    if bundle.attempts >= _MOST_ATTEMPTS:
        _give_up(bundle_pk, f"Packing it broke off {bundle.attempts} times. Ask for fewer lines at once.")
        return
    with tempfile.TemporaryFile() as out:
        try:
            pieces = _write(out, bundle)
        except BundleError as error:
            _give_up(bundle_pk, str(error))
            return
        with transaction.atomic():
            file = StoredFile.objects.keep_stream(File(out), Kind.BUNDLE)
            Bundle.objects.going_on(bundle_pk).update(
                state=Bundle.State.WHOLE, file=file, done=bundle.total, pieces=pieces
            )


def _give_up(bundle_pk: int, why: str) -> None:
    Bundle.objects.going_on(bundle_pk).update(state=Bundle.State.FAILED, trouble=why[:300])


def _write(out: IO[bytes], bundle: Bundle) -> int:
    """Write the zip; returns how many pieces are in it."""
    table: list[list[object]] = []
    names = _Names()
    pieces = 0
    with zipfile.ZipFile(out, "w") as pack_file:
        for number, line in enumerate(_in_order(bundle.lines), start=1):
            written = _pack_line(pack_file, line, names)
            pieces += line.quantity if written else 0
            table.append(_table_row(line, written))
            if out.tell() > LARGEST_BUNDLE_BYTES:
                most = LARGEST_BUNDLE_BYTES / 1024**3
                raise BundleError(f"It is more than {most:.0f} GB. Choose a list or type a filter first.")
            if number % _TELL_EVERY == 0:
                Bundle.objects.filter(pk=bundle.pk).update(done=number)
        _put(pack_file, "pieces.csv", csv_bytes(_HEADER, table))
    return pieces


_AT_ONCE = 200


def _in_order(pks: Sequence[int]) -> Iterator[OrderLine]:
    """Lines in the order of their keys given, some at a time: memory does not grow with their number."""
    rows = OrderLine.objects.select_related("product", "revision__product", "revision__logo_file")
    for start in range(0, len(pks), _AT_ONCE):
        part = pks[start : start + _AT_ONCE]
        found = rows.in_bulk(list(part))
        yield from (found[pk] for pk in part if pk in found)


class _Names:
    """Names of files in a bundle: by order and wording, none twice."""

    def __init__(self) -> None:
        self._given: set[str] = set()

    def give(self, line: OrderLine) -> str:
        """The beginning of the names of a line's files."""
        words = re.sub(r"[^\w-]+", "-", line.wording, flags=re.UNICODE).strip("-")[:30]
        name = piece_name(line.order, line.line, 1).rpartition("-")[0]
        whole = f"{name} {words}" if words else name
        # Two shops may use the same order numbers.
        if whole.casefold() in self._given:
            whole = f"source-{line.source_id}/{whole}"
        self._given.add(whole.casefold())
        return whole


def _pack_line(pack_file: zipfile.ZipFile, line: OrderLine, names: _Names) -> list[str]:
    if line.stage != Stage.READY or line.revision is None:
        return []
    written = []
    beginning = names.give(line)
    expected: dict[str, Any] = line.revision.facts["files"]
    for extension in expected:
        content = file_of(line.revision.to_inputs(), extension, expected)
        if content is None:
            continue
        for number in range(1, line.quantity + 1):
            name = f"pieces/{beginning} {number}.{extension}"
            _put(pack_file, name, content)
            written.append(name)
    return written


def _table_row(line: OrderLine, names: Iterable[str]) -> list[object]:
    row: list[object] = [line.order, line.line, line.product.code, line.size_now, line.wording]
    row += [line.quantity, line.stage]
    if line.revision is None or line.stage == Stage.NEW:
        return row
    worst = (line.revision.worst or {}).get("message", "")
    weight = line.revision.facts.get("weight_g")
    all_the_same = line.revision.facts.get("all_the_same")
    looser = line.revision.facts.get("looser")
    return [*row, f"{line.revision.height_mm:.2f}", weight, "; ".join(names), worst, all_the_same, looser]


def _put(pack_file: zipfile.ZipFile, name: str, content: bytes) -> None:
    entry = zipfile.ZipInfo(name, date_time=ZIP_DATE)
    entry.external_attr = 0o644 << 16
    # Said at the entry, as an entry that is handed in does not heed the pack's own level.
    pack_file.writestr(entry, content, zipfile.ZIP_DEFLATED, 1)


def forget_past_bundles() -> int:
    """Take bundles away whose time is over, and their files; returns how many."""
    past = list(Bundle.objects.past().select_related("file")[:500])
    for bundle in past:
        file = bundle.file
        with transaction.atomic():
            bundle.delete()
            if file is None or Bundle.objects.filter(file=file).exists():
                continue
            StoredFile.objects.filter(pk=file.pk, kind=Kind.BUNDLE).delete()
        file.forget_unless_kept()
    return len(past)
