"""Products to begin with: one of every kind of blank, with the measures that such pieces usually have."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from types import MappingProxyType
from typing import Any

from kizami.products.product_file import product_tables

__all__ = ["starting_products"]


@cache
def starting_products() -> Mapping[str, Mapping[str, Any]]:
    """Their tables by code, in the order in which they are shown."""
    text = (files("kizami") / "data" / "starting-products.toml").read_text("utf-8")
    return MappingProxyType({table["code"]: table for table in product_tables(text)})
