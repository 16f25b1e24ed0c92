"""Looking at typefaces in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

__all__ = ["look_at_typeface", "take_up_typefaces"]


@app.task(name="look_at_typeface", queue="making")
def look_at_typeface(sent_pk: int) -> None:
    """Look at a typeface that was sent; may be killed and run again."""
    from workshop.catalogue import typefaces_sent

    typefaces_sent.look_at_typeface(sent_pk)


@app.periodic(cron="* * * * * */30")
@app.task(name="take_up_typefaces", queueing_lock="take-up-typefaces", pass_context=False)
def take_up_typefaces(timestamp: int) -> int:
    """Ask again for typefaces whose job was lost, and forget what was told for long enough.

    Returns
    -------
    how many wait
    """
    from workshop.catalogue import typefaces_sent

    return typefaces_sent.take_up()
