"""Logos that were sent: kept as they came, and looked at in the background.

Reading and tracing five hundred pictures takes as long as it takes; whoever sent them goes on meanwhile.
"""

from __future__ import annotations

import contextlib
import datetime as dt
import io
import zipfile
from collections.abc import Sequence

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, ProtectedError
from django.utils import timezone

from workshop.artwork.models import LogoParcel
from workshop.files.models import Kind, StoredFile
from workshop.intake.logos import Taken, take_logos
from workshop.jobs.queue import defer_parcel
from workshop.sources.models import Source

__all__ = ["forget_past_parcels", "lately_sent", "look_at_parcel", "send_logos", "take_up_parcels"]

_MOST_ATTEMPTS = 3
#: What became of a parcel is told for so long.
_TOLD = dt.timedelta(hours=12)
_MOST_TOLD = 20


def send_logos(source: Source, files: Sequence[tuple[str, bytes]], *, user: User) -> list[LogoParcel]:
    """Keep files as they came, and ask for a look at them; nothing of them is read here.

    Loose files go into one parcel, as many are looked at in the time of one.
    """
    loose = [(name, data) for name, data in files if not data.startswith(b"PK")]
    if len(loose) > 1:
        others = [(name, data) for name, data in files if data.startswith(b"PK")]
        files = [(f"{len(loose)} files", _packed(loose)), *others]
    with transaction.atomic():
        parcels = [
            LogoParcel.objects.create(
                source=source, name=name[-200:], file=StoredFile.objects.keep(data, Kind.LOGO), sent_by=user
            )
            for name, data in files
        ]
        for parcel in parcels:
            defer_parcel(parcel.pk)
    return parcels


def _packed(files: Sequence[tuple[str, bytes]]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as pack:
        for name, data in dict(files).items():
            pack.writestr(name, data)
    return out.getvalue()


def lately_sent(source: Source) -> list[LogoParcel]:
    """What is still to be looked at, and what became of the others."""
    return list(LogoParcel.objects.filter(source=source, sent_at__gt=timezone.now() - _TOLD)[:_MOST_TOLD])


def look_at_parcel(parcel_pk: int) -> None:
    """Put on the shelf what can be used; after the parcels that the same source sent before.

    Killed at any moment it is begun anew; after the third time it is given up.
    """
    waiting = LogoParcel.objects.waiting().filter(pk=parcel_pk)
    before = LogoParcel.objects.waiting().filter(pk__lt=parcel_pk, source__parcels=parcel_pk)
    if before.exists():
        return  # whoever looks at the last of those asks for this one
    free = waiting.select_for_update(of=("self",), skip_locked=True, no_key=True)
    with transaction.atomic():
        if free.first() is None:
            return  # it was looked at, or another worker is at it
        # Counted before the attempt and stored at once: an attempt that kills the worker counts.
        waiting.update(attempts=F("attempts") + 1)
    parcel = waiting.select_related("source", "file", "sent_by").first()
    if parcel is None or parcel.file is None:
        return
    with transaction.atomic():
        if free.first() is None:
            return
        if parcel.attempts > _MOST_ATTEMPTS:
            taken = Taken(kept=(), refused={parcel.name: "could not be looked at. Send it again"}, lines=0)
        else:
            taken = take_logos(parcel.source, [(parcel.name, parcel.file.read())], user=parcel.sent_by)
        waiting.update(looked_at=timezone.now(), file=None, said=taken.said, is_refused=not taken.kept)
        # A single logo lies on the shelf as it came, and the same may have been sent twice.
        with contextlib.suppress(ProtectedError):
            StoredFile.objects.filter(pk=parcel.file.pk).delete()
    parcel.file.forget_unless_kept()
    following = LogoParcel.objects.waiting().filter(source=parcel.source).order_by("pk").first()
    if following is not None:
        defer_parcel(following.pk)


def take_up_parcels() -> int:
    """Ask again for every parcel that is still waiting, whatever became of its job."""
    waiting = LogoParcel.objects.waiting().values_list("pk", flat=True)
    for pk in waiting:
        defer_parcel(pk)
    return len(waiting)


def forget_past_parcels() -> int:
    """Take away what became of parcels when it was told for long enough."""
    past = LogoParcel.objects.filter(looked_at__lt=timezone.now() - _TOLD)
    return int(past.delete()[0])
