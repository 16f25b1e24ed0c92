"""Files that were sent and are looked at in the background: kept as they came until then.

Whoever sent one goes on meanwhile. What has a table of them has its own model of this kind.
"""

from __future__ import annotations

import contextlib
import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Self, TypeVar

from django.conf import settings
from django.db import models, transaction
from django.db.models import F, ProtectedError, Q
from django.utils import timezone

from workshop.files.models import StoredFile

__all__ = ["Became", "Sent", "SentQuerySet", "kept_until_looked_at", "look_at"]

_MOST_ATTEMPTS = 3
#: What became of a file is told for so long.
_TOLD = dt.timedelta(hours=12)


class SentQuerySet(models.QuerySet[Any]):
    """Table-level questions about files that were sent."""

    def waiting(self) -> Self:
        """Those that are still to be looked at."""
        return self.filter(looked_at=None)

    def lately(self) -> Self:
        """What is still to be looked at, and what became of the others."""
        return self.filter(sent_at__gt=timezone.now() - _TOLD)

    def forget_past(self) -> int:
        """Take away what became of files when it was told for long enough."""
        return int(self.filter(looked_at__lt=timezone.now() - _TOLD).delete()[0])

    def ask_again(self, ask: Callable[[int], None]) -> int:
        """Ask for a look at every file that is still waiting, whatever became of its job; how many wait."""
        waiting = list(self.waiting().values_list("pk", flat=True))
        for pk in waiting:
            ask(pk)
        return len(waiting)


class Sent(models.Model):
    """A file as it was sent, kept until it is looked at; then what became of it."""

    name = models.CharField(max_length=200)
    file = models.ForeignKey(StoredFile, null=True, on_delete=models.PROTECT, related_name="+")
    sent_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    sent_at = models.DateTimeField(auto_now_add=True)
    looked_at = models.DateTimeField(null=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    #: What became of it, in words.
    said = models.TextField(blank=True)
    is_refused = models.BooleanField(default=False)

    objects = SentQuerySet.as_manager()

    class Meta:
        abstract = True
        ordering = ["-sent_at", "-pk"]

    def __str__(self) -> str:
        return self.name


def kept_until_looked_at(name: str) -> models.CheckConstraint:
    """A file is there until it was looked at, and then no more."""
    return models.CheckConstraint(
        condition=Q(looked_at=None, file__isnull=False) | Q(looked_at__isnull=False, file=None), name=name
    )


#: Some model of files that were sent.
S = TypeVar("S", bound=Sent)


@dataclass(frozen=True, kw_only=True, slots=True)
class Became:
    """What became of a file, in words, and whether it was refused."""

    said: str
    is_refused: bool


def look_at(
    waiting: models.QuerySet[S], take: Callable[[S, StoredFile], Became], *, given_up: Callable[[S], Became]
) -> S | None:
    """Take in a file where it can be used, and tell what became of it.

    Killed at any moment it is begun anew; after the third time it is given up.

    Parameters
    ----------
    waiting : the one file, where it still waits
    take : takes it in, within a transaction
    given_up : what is told of one that ended its worker again and again

    Returns
    -------
    what was looked at; None where it was looked at before, or somebody else is at it
    """
    free = waiting.select_for_update(of=("self",), skip_locked=True, no_key=True)
    with transaction.atomic():
        if free.first() is None:
            return None
        # Counted before the attempt and stored at once: an attempt that kills the worker counts.
        waiting.update(attempts=F("attempts") + 1)
    sent = waiting.select_related("file", "sent_by").first()
    if sent is None or sent.file is None:
        return None
    with transaction.atomic():
        if free.first() is None:
            return None
        became = given_up(sent) if sent.attempts > _MOST_ATTEMPTS else take(sent, sent.file)
        waiting.update(looked_at=timezone.now(), file=None, said=became.said, is_refused=became.is_refused)
        # What was taken in keeps its file, and another one may have been sent with the same content.
        with contextlib.suppress(ProtectedError):
            StoredFile.objects.filter(pk=sent.file.pk).delete()
    sent.file.forget_unless_kept()
    return sent
