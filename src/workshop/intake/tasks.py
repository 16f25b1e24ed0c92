"""Looking at logos in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

from workshop.intake import parcels

__all__ = ["look_at_parcel", "take_up_parcels"]


@app.task(name="look_at_parcel", queue="making")
def look_at_parcel(parcel_pk: int) -> None:
    """Look at a parcel of logos; may be killed and run again."""
    parcels.look_at_parcel(parcel_pk)


@app.periodic(cron="* * * * * */30")
@app.task(name="take_up_parcels", queueing_lock="take-up-parcels", pass_context=False)
def take_up_parcels(timestamp: int) -> int:
    """Ask again for parcels whose job was lost, and forget what was told for long enough.

    Returns
    -------
    how many wait
    """
    return parcels.take_up_parcels()
