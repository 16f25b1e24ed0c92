"""Packing in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

from workshop.book.bundles import forget_past_bundles, pack

__all__ = ["forget_bundles", "pack_bundle"]


@app.task(name="pack_bundle", queue="making")
def pack_bundle(bundle_pk: int) -> None:
    """Pack a bundle; may be killed and run again."""
    pack(bundle_pk)


@app.periodic(cron="17 * * * *")
@app.task(name="forget_bundles", queueing_lock="forget-bundles", pass_context=False)
def forget_bundles(timestamp: int) -> int:
    """Take bundles away whose time is over.

    Returns
    -------
    how many there were
    """
    return forget_past_bundles()
