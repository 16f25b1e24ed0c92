"""Setting a station otherwise, with who and why."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from kizami.errors import RunError
from workshop.standards.models import LONGEST_WHY, SHORTEST_WHY
from workshop.stations.models import Station, StationChange

__all__ = ["set_station"]


def set_station(station: Station, table: dict[str, Any], *, retired: bool, why: str, user: User) -> bool:
    """Keep how a station is set; False where it is as it was. Call in a transaction, with the row held.

    Raises
    ------
    kizami.errors.RunError : there is no reason; nothing is kept
    """
    if table == station.table and retired == station.retired:
        return False
    why = " ".join(why.split())
    if not SHORTEST_WHY <= len(why) <= LONGEST_WHY:
        raise RunError(f"Say in {SHORTEST_WHY} to {LONGEST_WHY} characters why it is set otherwise.")
    StationChange.objects.create(
        station=station, number=station.edition + 1, before=station.table, after=table,
        retired_before=station.retired, retired=retired, why=why, who=user,
    )  # fmt: skip
    station.table, station.retired = table, retired
    station.edition += 1
    station.save(update_fields=["table", "retired", "edition"])
    return True
