"""Values of a workbook as the spreadsheet shows them: its number formats, as far as lists use them.

Format codes as in ECMA-376 (Office Open XML), part 1, 18.8.31, from memory: ``0`` and ``#`` for digits, ``,`` for
thousands, ``%``, text in quotes, and letters of dates and times. A code that is not understood shows the value
plainly. Dates in digits are shown in the order of their format, others as the year, the month and the day.
"""

from __future__ import annotations

import datetime as dt
import math
import re

__all__ = ["shown_in_format"]

_Value = bool | int | float | dt.datetime | dt.date | dt.time | dt.timedelta
_QUOTED = re.compile(r'"([^"]*)"')
_DIGITS = re.compile(r"[#0?][#0?,]*(?:\.[0#?]+)?")


def shown_in_format(value: _Value, code: str) -> str:
    """A value as text.

    >>> shown_in_format(7, "000"), shown_in_format(0.5, "0%"), shown_in_format(1234.5, "#,##0.00")
    ('007', '50%', '1,234.50')
    >>> shown_in_format(dt.time(12, 30), "hh:mm"), shown_in_format(dt.date(2027, 5, 4), "dd.mm.yyyy")
    ('12:30', '04.05.2027')
    >>> shown_in_format(dt.date(2027, 5, 4), "mm/dd/yyyy"), shown_in_format(3.0, "General")
    ('05/04/2027', '3')
    """
    if isinstance(value, bool):
        return "TRUE" if value else "FALSE"
    if isinstance(value, dt.timedelta):
        minutes = int(value.total_seconds() // 60)
        return f"{minutes // 60}:{minutes % 60:02d}"
    if isinstance(value, dt.time):
        return _time(value, code)
    if isinstance(value, dt.datetime | dt.date):
        return _date(value, code)
    return _number(value, code)


def _number(value: float, code: str) -> str:
    section = _section(code, value)
    found = _DIGITS.search(_QUOTED.sub("", section))
    if found is None and _QUOTED.search(section):
        return _literal(section).strip()
    if section in ("General", "@", "") or found is None:
        return f"{value:.15g}" if isinstance(value, float) else str(value)
    digits = found[0]
    whole, _, decimals = digits.partition(".")
    scaled = abs(value) * (100 if "%" in section else 1)
    places = len(decimals)
    # As a spreadsheet rounds: halves away from nought.
    rounded = math.floor(scaled * 10**places + 0.5 + 1e-9) / 10**places
    least = decimals.count("0")
    text = f"{rounded:.{places}f}"
    if places > least:
        text = text[: len(text) - (places - least)] + text[len(text) - (places - least) :].rstrip("0")
        text = text.rstrip(".")
    before, dot, after = text.partition(".")
    before = before.zfill(whole.replace(",", "").count("0"))
    if "," in whole:
        before = f"{int(before):,}".zfill(len(before))
    sign = "-" if value < 0 and ";" not in code else ""
    front, back = section.split(digits, 1) if digits in section else ("", "%" if "%" in section else "")
    return f"{sign}{_literal(front)}{before}{dot}{after}{_literal(back)}".strip()


def _section(code: str, value: float) -> str:
    """Positive; negative; zero, without colours and conditions in brackets."""
    sections = [re.sub(r"\[[^\]]*\]", "", part) for part in code.split(";")]
    if value < 0 and len(sections) > 1:
        return sections[1]
    return sections[2] if value == 0 and len(sections) > 2 else sections[0]


def _literal(text: str) -> str:
    """What stands around digits: quoted text, signs; spaces as wide as a letter and fillings are left out."""
    return re.sub(r"[_*].", "", _QUOTED.sub(r"\1", text)).replace("\\", "")


def _time(value: dt.time, code: str) -> str:
    text = (
        f"{value.hour:02d}:{value.minute:02d}" if "hh" in code.lower() else f"{value.hour}:{value.minute:02d}"
    )
    return f"{text}:{value.second:02d}" if "s" in code.lower() or value.second else text


def _date(value: dt.datetime | dt.date, code: str) -> str:
    clock = value.time() if isinstance(value, dt.datetime) else dt.time()
    day = value.date() if isinstance(value, dt.datetime) else value
    plain = re.sub(r"\[[^\]]*\]", "", _QUOTED.sub("", code)).lower()
    if "y" not in plain and "d" not in plain and ("h" in plain or "s" in plain):
        return _time(clock, code)
    text = _in_digits(day, plain) or day.isoformat()
    return text if clock == dt.time() else f"{text} {clock.isoformat()}"


def _in_digits(day: dt.date, plain: str) -> str:
    """A date in digits in the order of its format, or "" where the format has words."""
    order = re.match(r"\s*([dmy]{1,4})(\\?[-/. ]\s?)([dmy]{1,4})(\\?[-/. ]\s?)([dmy]{1,4})(?![a-z])", plain)
    if order is None or {order[1][0], order[3][0], order[5][0]} != {"d", "m", "y"}:
        return ""
    written = {
        "d": str(day.day), "dd": f"{day.day:02d}", "m": str(day.month), "mm": f"{day.month:02d}",
        "yy": f"{day.year % 100:02d}", "yyyy": str(day.year),
    }  # fmt: skip
    if any(part not in written for part in (order[1], order[3], order[5])):
        return ""
    marks = [order[2].replace("\\", ""), order[4].replace("\\", "")]
    return f"{written[order[1]]}{marks[0]}{written[order[3]]}{marks[1]}{written[order[5]]}"
