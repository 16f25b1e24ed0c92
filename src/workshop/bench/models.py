"""Who has a piece open at the bench just now."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models
from django.utils import timezone

from workshop.orders.models import OrderLine

__all__ = ["Presence"]

#: A page asks every few seconds; who was not heard of for so long has gone.
HERE = timedelta(seconds=20)
#: Rows that are older than this are dropped when somebody comes.
_FORGOTTEN = timedelta(hours=1)


class PresenceQuerySet(models.QuerySet["Presence"]):
    """Table-level questions about who is where."""

    def heard_of(self, line: OrderLine, user: User) -> list[Presence]:
        """Note that somebody has a line open, and give the others who have."""
        now = timezone.now()
        # Who comes back begins anew.
        self.filter(line=line, user=user, seen_at__lt=now - HERE).delete()
        self.update_or_create(line=line, user=user, defaults={"seen_at": now})
        self.filter(seen_at__lt=now - _FORGOTTEN).delete()
        others = self.filter(line=line, seen_at__gte=now - HERE).exclude(user=user)
        return list(others.select_related("user").order_by("since"))


class Presence(models.Model):
    """Somebody at a line."""

    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="+", db_index=False)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    since = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(db_index=True)

    objects = PresenceQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["line", "user"], name="presence_once")]

    def __str__(self) -> str:
        return f"{self.user} at {self.line}"
