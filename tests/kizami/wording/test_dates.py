"""Dates: certain readings, readings left to a person, and what is no date."""

from __future__ import annotations

import datetime as dt

import pytest
from babel.dates import format_date
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.dates import DATE_FORMS, read_date, write_date

MAY_4 = dt.date(2026, 5, 4)


@pytest.mark.parametrize(
    "text",
    [
        "2026-05-04", "2026/5/4", "4 May 2026", "May 4, 2026", "4th of May 2026", "May 4th 2026", "04.05.2026", "4.5.26",
        "4. Mai 2026", "4 mai 2026", "4 de mayo de 2026", "4 maggio 2026", "4 mei 2026", "4 maj 2026", "2026年5月4日",
        "  4  MAY  2026 ", "May 4 26", "4-may-2026",
    ],
)  # fmt: skip
def test_certain_dates(text: str) -> None:
    assert read_date(text).certain == MAY_4


@pytest.mark.parametrize("text", ["03/04/2026", "3-4-26", "12/11/2025"])
def test_two_readings_are_left_to_a_person(text: str) -> None:
    reading = read_date(text)
    assert reading.ambiguous and reading.certain is None
    assert read_date(text, day_first=True).certain in reading.dates
    assert read_date(text, day_first=False).certain in reading.dates
    assert read_date(text, day_first=True).certain != read_date(text, day_first=False).certain


@pytest.mark.parametrize(
    ("text", "date"),
    [("13/04/2026", (2026, 4, 13)), ("04/13/2026", (2026, 4, 13)), ("05/05/2026", (2026, 5, 5))],
)
def test_slashes_with_one_reading_are_certain(text: str, date: tuple[int, int, int]) -> None:
    assert read_date(text).certain == dt.date(*date)


@pytest.mark.parametrize(
    "text",
    ["", "Ana", "May", "May Smith", "2026", "30.02.2026", "2026-13-01", "31/31/2026", "4 May", "May June 4 2026", "4 May 9999", "1/2/3/4", "4 Mayo Ana 2026"],
)  # fmt: skip
def test_what_is_no_date(text: str) -> None:
    assert read_date(text).dates == ()


days = st.dates(min_value=dt.date(1800, 1, 1), max_value=dt.date(2199, 12, 31))


@given(days, st.sampled_from(["en", "de", "fr", "es", "it", "nl", "pt", "sv", "da"]))
def test_long_dates_as_the_unicode_locale_data_writes_them(date: dt.date, language: str) -> None:
    """Babel writes the date by CLDR's long pattern; it must come back as the same day."""
    assert read_date(format_date(date, "long", locale=language)).certain == date


@given(st.dates(min_value=dt.date(1970, 1, 1), max_value=dt.date(2069, 12, 31)))
def test_a_written_date_reads_back(date: dt.date) -> None:
    for form in ("2026-05-04", "04.05.2026", "4.5.26"):
        assert read_date(write_date(date, form)).certain == date


def test_every_form_is_named_after_its_example() -> None:
    assert {form: write_date(MAY_4, form) for form in DATE_FORMS} == {form: form for form in DATE_FORMS}
