"""Files of typefaces that were sent: kept as they came, drawn and measured in the background.

Measuring takes up to ten seconds; whoever sent one goes on meanwhile.
"""

from __future__ import annotations

import contextlib
import datetime as dt

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, ProtectedError
from django.utils import timezone

from kizami.errors import TypefaceError
from kizami.lettering.own_typeface import refuse_at_sight
from workshop.catalogue.models import TypefaceSent
from workshop.catalogue.services import add_typeface
from workshop.files.models import Kind, StoredFile
from workshop.jobs.queue import defer_typeface

__all__ = ["forget_past", "lately_sent", "look_at_typeface", "send_typeface", "take_up"]

_MOST_ATTEMPTS = 3
#: What became of a file is told for so long.
_TOLD = dt.timedelta(hours=12)
_MOST_TOLD = 8


def send_typeface(data: bytes, *, file_name: str, user: User) -> TypefaceSent:
    """Keep a file as it came, and ask for a look at it; nothing of it is read here.

    Raises
    ------
    kizami.errors.TypefaceError : it is too large or no typeface at sight; nothing is stored then
    """
    refuse_at_sight(data, file_name=file_name)
    with transaction.atomic():
        sent = TypefaceSent.objects.create(
            name=file_name[-200:], file=StoredFile.objects.keep(data, Kind.TYPEFACE), sent_by=user
        )
        defer_typeface(sent.pk)
    return sent


def lately_sent() -> list[TypefaceSent]:
    """What is still to be looked at, and what became of the others."""
    return list(TypefaceSent.objects.filter(sent_at__gt=timezone.now() - _TOLD)[:_MOST_TOLD])


def look_at_typeface(sent_pk: int) -> None:
    """Take a typeface in where it can be used, and tell what became of it.

    Killed at any moment it is begun anew; after the third time it is given up.
    """
    waiting = TypefaceSent.objects.waiting().filter(pk=sent_pk)
    free = waiting.select_for_update(of=("self",), skip_locked=True, no_key=True)
    with transaction.atomic():
        if free.first() is None:
            return  # it was looked at, or another worker is at it
        # Counted before the attempt and stored at once: an attempt that kills the worker counts.
        waiting.update(attempts=F("attempts") + 1)
    sent = waiting.select_related("file", "sent_by").first()
    if sent is None or sent.file is None:
        return
    with transaction.atomic():
        if free.first() is None:
            return
        said, is_refused = _looked_at(sent, sent.file)
        waiting.update(looked_at=timezone.now(), file=None, said=said, is_refused=is_refused)
        # What was taken in keeps its file, and another one may have been sent with the same content.
        with contextlib.suppress(ProtectedError):
            StoredFile.objects.filter(pk=sent.file.pk).delete()
    sent.file.forget_unless_kept()


def _looked_at(sent: TypefaceSent, file: StoredFile) -> tuple[str, bool]:
    """What became of a file, in words, and whether it was refused."""
    if sent.attempts > _MOST_ATTEMPTS:
        return "It could not be looked at. Send it again. Nothing was added.", True
    try:
        with transaction.atomic():
            added = add_typeface(file.read(), file_name=sent.name, user=sent.sent_by)
    except TypefaceError as error:
        return f"{error} Nothing was added.", True
    return f"{added.name} is here; products name it “{added.code}”, lists may name it by its name.", False


def take_up() -> int:
    """Ask again for every file that is still waiting, whatever became of its job; returns how many."""
    waiting = list(TypefaceSent.objects.waiting().values_list("pk", flat=True))
    for pk in waiting:
        defer_typeface(pk)
    return len(waiting)


def forget_past() -> int:
    """Take away what became of files when it was told for long enough."""
    return int(TypefaceSent.objects.filter(looked_at__lt=timezone.now() - _TOLD).delete()[0])
