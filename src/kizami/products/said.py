"""What is wrong with a table, as one sentence that names the product and the key."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from pydantic import ValidationError

__all__ = ["said"]


def said(error: ValidationError, *, where: str, kinds: Mapping[str, Collection[str]]) -> str:
    """The first thing that is wrong, and how many more there are.

    Parameters
    ----------
    where : what the table is, such as “Product TAG”
    kinds : keys whose tables are of several kinds, with the names of these, which are no keys themselves

    >>> from typing import Annotated
    >>> from kizami.products.values import Table, Within
    >>> class Tag(Table):
    ...     depth_mm: Annotated[float, Within(0.1, 5)]
    >>> try:
    ...     Tag.model_validate({"depth_mm": 18, "glue": 1})
    ... except ValidationError as error:
    ...     said(error, where="Product TAG", kinds={})
    'Product TAG: depth_mm must be a number from 0.1 to 5, not 18 (and one thing more).'
    """
    errors = error.errors(include_url=False)
    first, more = errors[0], len(errors) - 1
    names = {name for known in kinds.values() for name in known}
    path = [str(step) for step in first["loc"] if step not in names]
    text = _sentence(first, path, kinds)
    beside = "" if not more else " (and one thing more)" if more == 1 else f" (and {more} things more)"
    return f"{where}: {text}{beside}."


def _sentence(error: Any, path: list[str], kinds: Mapping[str, Collection[str]]) -> str:
    kind, context = error["type"], error.get("ctx", {})
    # A number in a path is that of a table in a list, counted from one.
    steps = [str(int(step) + 1) if step.isdigit() else step for step in path]
    inside, key = _inside(steps[:-1]), steps[-1] if steps else ""
    if key.isdigit():
        inside, key = _inside(steps[:-2]), " ".join(steps[-2:])
    if kind == "missing":
        return f"{inside}{key} is missing"
    if kind == "extra_forbidden":
        return f"{inside}unknown {key}"
    if kind == "wrong" and (context["said"].startswith(("must", "“")) and key):
        return f"{inside}{key} {context['said']}"
    if kind == "wrong":
        return f"{_inside(steps)}{context['said']}"
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        tags = ", ".join(kinds[next(step for step in reversed(path) if step in kinds)])
        given = error["input"].get("kind") if isinstance(error["input"], dict) else error["input"]
        return f"{_inside(steps)}kind must be one of {tags}, not {given!r:.40}"
    if kind in ("literal_error", "enum"):
        valid = context["expected"].replace("' or '", "', '").replace("'", "")
        return f"{inside}{key} “{str(error['input'])[:40]}” is none of {valid}"
    if kind in ("too_long", "string_too_long"):
        what = "entries" if kind == "too_long" else "characters"
        return f"{inside}{key} may have at most {context['max_length']} {what}"
    return f"{inside}{key} {_OF_KIND.get(kind, error['msg'].lower())}"


def _inside(steps: list[str]) -> str:
    """The tables on the way to a key, a number joined to the list that it counts in."""
    out: list[str] = []
    for step in steps:
        if step.isdigit() and out:
            out[-1] += f" {step}"
        else:
            out.append(step)
    return "".join(f"{step}: " for step in out)


_OF_KIND = {
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "string_type": "must be a word",
    "string_too_short": "must not be empty",
    "tuple_type": "must be a list",
    "list_type": "must be a list",
    "dict_type": "must be a table",
    "model_type": "must be a table",
    "model_attributes_type": "must be a table",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_from_float": "must be a whole number",
}
