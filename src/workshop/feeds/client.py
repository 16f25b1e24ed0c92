"""Asking a feed over the network. Whatever it answers, the outcome is a page or one clear sentence."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any
from urllib.parse import quote

import httpx
from jsonschema import Draft202012Validator

__all__ = ["FeedError", "Page", "ask", "tell"]

_TIMEOUT_S = 5.0
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
    FeedError : no answer in 5 s, an answer that is not a page, or one that is too large
    """
    try:
        with httpx.stream(
            "GET",
            f"{address.rstrip('/')}/orders",
            params={"after": cursor},
            timeout=_TIMEOUT_S,
            follow_redirects=False,
        ) as answer:
            if answer.status_code != 200:
                raise FeedError(f"it answered {answer.status_code}")
            data = bytearray()
            for chunk in answer.iter_bytes():
                data += chunk
                if len(data) > _LARGEST_PAGE_BYTES:
                    raise FeedError("its answer is larger than 2 MB")
    except httpx.TimeoutException as error:
        raise FeedError("it did not answer in 5 s") from error
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        raise FeedError(f"it can't be reached ({type(error).__name__})") from error
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
    try:
        answer = httpx.post(
            f"{address.rstrip('/')}/orders/{quote(order, safe='')}/status",
            json={"status": status},
            timeout=_TIMEOUT_S,
            follow_redirects=False,
        )
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        raise FeedError(f"it can't be reached ({type(error).__name__})") from error
    if answer.status_code >= 300:
        raise FeedError(f"it answered {answer.status_code} to a status")


@cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(json.loads((files("shopfeed") / "order.schema.json").read_text("utf-8")))
