"""Asking a feed over the network. Whatever it answers, the outcome is a page or one clear sentence."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, TypeVar
from urllib.parse import quote

import httpx
from jsonschema import Draft202012Validator

__all__ = ["TOTAL_S", "FeedError", "Page", "ask", "tell"]

_TIMEOUT_S = 5.0
#: For a whole answer, however it comes.
TOTAL_S = 20.0
_Answer = TypeVar("_Answer")
#: Far above a page of twenty orders; more is a mistake or malice.
_LARGEST_PAGE_BYTES = 2 * 1024 * 1024


class FeedError(Exception):
    """The feed could not be heard; the text says why."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Page:
    """A page of orders.

    Attributes
    ----------
    orders : those that are as documented
    refused : the others as they came, each with the reason
    next_cursor : where to go on
    """

    orders: tuple[dict[str, Any], ...]
    refused: tuple[tuple[str, str], ...]
    next_cursor: str


def ask(address: str, cursor: str) -> Page:
    """Fetch the page after a cursor.

    Raises
    ------
    FeedError : no answer in 5 s or none whole in 20 s, one that is not a page, or one that is too large
    """
    data = _in_time(_fetch(f"{address.rstrip('/')}/orders", cursor))
    try:
        page = json.loads(data)
        found, next_cursor = page["orders"], page["next"]
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise FeedError("its answer is not a page of orders") from error
    if not isinstance(found, list) or not isinstance(next_cursor, str | None):
        raise FeedError("its answer is not a page of orders")
    good: list[dict[str, Any]] = []
    refused: list[tuple[str, str]] = []
    for order in found[:1000]:
        wrong = next(iter(_validator().iter_errors(order)), None)
        if wrong is None:
            good.append(order)
        else:
            place = "/".join(str(part) for part in wrong.absolute_path) or "the order"
            refused.append((json.dumps(order, ensure_ascii=False)[:500], f"{place}: {wrong.message[:200]}"))
    return Page(orders=tuple(good), refused=tuple(refused), next_cursor=(next_cursor or "")[:200])


def tell(address: str, order: str, status: str) -> None:
    """Tell the feed how an order stands.

    Raises
    ------
    FeedError : it did not take it
    """
    where = f"{address.rstrip('/')}/orders/{quote(order, safe='')}/status"
    code = _in_time(_send(where, status))
    if code >= 300:
        raise FeedError(f"it answered {code} to a status")


async def _fetch(address: str, cursor: str) -> bytes:
    async with (
        httpx.AsyncClient(timeout=_TIMEOUT_S, follow_redirects=False) as client,
        client.stream("GET", address, params={"after": cursor}) as answer,
    ):
        if answer.status_code != 200:
            raise FeedError(f"it answered {answer.status_code}")
        data = bytearray()
        async for chunk in answer.aiter_bytes():
            data += chunk
            if len(data) > _LARGEST_PAGE_BYTES:
                raise FeedError("its answer is larger than 2 MB")
        return bytes(data)


async def _send(address: str, status: str) -> int:
    async with (
        httpx.AsyncClient(timeout=_TIMEOUT_S, follow_redirects=False) as client,
        client.stream("POST", address, json={"status": status}) as answer,
    ):
        return answer.status_code


def _in_time(asking: Coroutine[Any, Any, _Answer]) -> _Answer:
    """Wait for an answer, but no longer than the total: one that trickles in never times out by itself.

    Raises
    ------
    FeedError : it can't be reached, or takes too long
    """

    async def bounded() -> _Answer:
        async with asyncio.timeout(TOTAL_S):
            return await asking

    try:
        # In a thread of its own: whoever asks may have an event loop already.
        with ThreadPoolExecutor(max_workers=1) as alone:
            return alone.submit(lambda: asyncio.run(bounded())).result()
    except TimeoutError as error:
        raise FeedError(f"its answer did not end within {TOTAL_S:.0f} s") from error
    except httpx.TimeoutException as error:
        raise FeedError("it did not answer in 5 s") from error
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        raise FeedError(f"it can't be reached ({type(error).__name__})") from error


@cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(json.loads((files("shopfeed") / "order.schema.json").read_text("utf-8")))
