"""Files of typefaces that were sent: kept as they came, drawn and measured in the background.

Measuring takes up to ten seconds; whoever sent one goes on meanwhile.
"""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import transaction

from kizami.errors import TypefaceError
from kizami.lettering.own_typeface import refuse_at_sight
from workshop.catalogue.models import TypefaceSent
from workshop.catalogue.services import add_typeface
from workshop.files.models import Kind, StoredFile
from workshop.files.sent import Became, look_at
from workshop.jobs.queue import defer_typeface

__all__ = ["lately_sent", "look_at_typeface", "send_typeface", "take_up"]

#: Of so many what became of them is told.
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
    return list(TypefaceSent.objects.lately()[:_MOST_TOLD])


def look_at_typeface(sent_pk: int) -> None:
    """Take a typeface in where it can be used, and tell what became of it."""
    waiting = TypefaceSent.objects.waiting().filter(pk=sent_pk)
    look_at(waiting, _taken, given_up=lambda _: _refused("It could not be looked at. Send it again."))


def _taken(sent: TypefaceSent, file: StoredFile) -> Became:
    try:
        with transaction.atomic():
            added = add_typeface(file.read(), file_name=sent.name, user=sent.sent_by)
    except TypefaceError as error:
        return _refused(str(error))
    said = f"{added.name} is here; products name it “{added.code}”, lists may name it by its name."
    return Became(said=said, is_refused=False)


def _refused(why: str) -> Became:
    return Became(said=f"{why} Nothing was added.", is_refused=True)


def take_up() -> int:
    """Ask again for every file that is still waiting, and forget what was told for long enough."""
    TypefaceSent.objects.forget_past()
    return TypefaceSent.objects.ask_again(defer_typeface)
