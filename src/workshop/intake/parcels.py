"""Logos that were sent: kept as they came, and looked at in the background.

Reading and tracing five hundred pictures takes as long as it takes; whoever sent them goes on meanwhile.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence

from django.contrib.auth.models import User
from django.db import transaction

from workshop.artwork.models import LogoParcel
from workshop.files.models import Kind, StoredFile
from workshop.files.sent import Became, look_at
from workshop.intake.logos import Taken, take_logos
from workshop.jobs.queue import defer_parcel
from workshop.sources.models import Source

__all__ = ["lately_sent", "look_at_parcel", "send_logos", "take_up_parcels"]

#: Of so many what became of them is told.
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
    return list(LogoParcel.objects.lately().filter(source=source)[:_MOST_TOLD])


def look_at_parcel(parcel_pk: int) -> None:
    """Put on the shelf what can be used; after the parcels that the same source sent before."""
    parcels = LogoParcel.objects.waiting()
    if parcels.filter(pk__lt=parcel_pk, source__parcels=parcel_pk).exists():
        return  # whoever looks at the last of those asks for this one
    waiting = parcels.filter(pk=parcel_pk).select_related("source")
    parcel = look_at(waiting, _taken, given_up=_given_up)
    if parcel is None:
        return
    following = LogoParcel.objects.waiting().filter(source=parcel.source).order_by("pk").first()
    if following is not None:
        defer_parcel(following.pk)


def _taken(parcel: LogoParcel, file: StoredFile) -> Became:
    taken = take_logos(parcel.source, [(parcel.name, file.read())], user=parcel.sent_by)
    return Became(said=taken.said, is_refused=not taken.kept)


def _given_up(parcel: LogoParcel) -> Became:
    taken = Taken(kept=(), refused={parcel.name: "could not be looked at. Send it again"}, lines=0)
    return Became(said=taken.said, is_refused=True)


def take_up_parcels() -> int:
    """Ask again for every parcel that is still waiting, and forget what was told for long enough."""
    LogoParcel.objects.forget_past()
    return LogoParcel.objects.ask_again(defer_parcel)
