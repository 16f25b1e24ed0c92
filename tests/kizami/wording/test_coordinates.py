"""Places in every way that people send them, and what could be two places is asked about.

The compact forms are those of ISO 6709, annex H (from memory of it), and of aviation charts; degrees and minutes
with decimals are what hikers' receivers show. What the letters of a language mean is common practice, no source.
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.coordinates import Position, read_coordinates, write_coordinates

#: 54° 46' 31" N, 1° 35' 5" W
DURHAM = (54 + 46 / 60 + 31 / 3600, -(1 + 35 / 60 + 5 / 3600))


def positions(text: str, language: str = "") -> list[tuple[float, float]]:
    reading = read_coordinates(text, language=language)
    return [(p.latitude_deg, p.longitude_deg) for p in reading.positions]


@pytest.mark.parametrize(
    "text",
    [
        "54.775278, -1.584722", "54.775278,-1.584722", "54.775278 -1.584722", "54,775278, -1,584722",
        "54,775278,-1,584722", "54,775278; -1,584722", "54.775278/-1.584722", "(54.775278, -1.584722)",
        "54.775278N 1.584722W", "54.775278N1.584722W", "N54.775278 W1.584722", "1.584722 W, 54.775278 N",
        "54.775278° N · 1.584722° W", "lat 54.775278 long -1.584722", "Longitude: -1.584722, Latitude: 54.775278",
        "54.775278° lat. N, 1.584722° long. W", "geo:54.775278,-1.584722", "GPS: 54.775278, -1.584722",
    ],
)  # fmt: skip
def test_decimal_degrees(text: str) -> None:
    assert positions(text) == [pytest.approx((54.775278, -1.584722), abs=1e-9)]


@pytest.mark.parametrize(
    "text",
    [
        "54°46'31\"N, 1°35'5\"W", "54° 46′ 31″ N 1° 35′ 5″ W", "54º46’31’’N 1º35’5’’W", "54˚46´31´´N 1˚35´5´´W",
        "N 54° 46.51667' W 001° 35.08333'", "N54 46.51667 W001 35.08333", "54 46 31 N 1 35 5 W",
        "54-46-31N 1-35-05W", "54:46:31N 1:35:05W", "54d46m31s N 1d35m05s W", "54°46'31\" -1°35'5\"",
        "54 deg 46 min 31 sec north, 1 deg 35 min 5 sec west", "54 Grad 46 Minuten 31 Sekunden Nord, 1 Grad 35 Minuten "
        "5 Sekunden West", "+544631-0013505/", "544631N0013505W", "W 1° 35' 5\" N 54° 46' 31\"",
    ],
)  # fmt: skip
def test_degrees_minutes_and_seconds(text: str) -> None:
    assert positions(text) == [pytest.approx(DURHAM, abs=2e-6)]


@pytest.mark.parametrize(
    ("text", "where"),
    [
        # ISO 6709: the Atlantic off Africa, New York, Mount Everest with its height, the Eiffel tower.
        ("+00-025/", (0, -25)),
        ("+40.75-074.00/", (40.75, -74.0)),
        ("+27.5916+086.5640+8850CRSWGS_84/", (27.5916, 86.564)),
        ("+4852.0+00219.5/", (48 + 52 / 60, 2 + 19.5 / 60)),
    ],
)
def test_the_compact_form_of_the_standard(text: str, where: tuple[float, float]) -> None:
    assert positions(text) == [pytest.approx(where, abs=1e-6)]


@pytest.mark.parametrize(
    ("language", "text", "where"),
    [
        ("de", "48,2082 N 16,3738 O", (48.2082, 16.3738)),
        ("de", "48,2082° n. Br., 16,3738° ö. L.", (48.2082, 16.3738)),
        ("de", "33,9° südlicher Breite, 18,4° östlicher Länge", (-33.9, 18.4)),
        ("fr", "40,4168 N 3,7038 O", (40.4168, -3.7038)),
        ("es", "40,4168 N 3,7038 O", (40.4168, -3.7038)),
        ("it", "45,46 Nord, 3,70 Ovest", (45.46, -3.7)),
        ("pt", "38,7 N 9,1 L", (38.7, 9.1)),
        ("nl", "33,9° ZB 18,4° OL", (-33.9, 18.4)),
        ("sv", "59,3 N 18,1 V", (59.3, -18.1)),
        ("cs", "50,1 S 14,4 V", (50.1, 14.4)),
        ("cs", "50°05′s. š., 14°25′v. d.", (50 + 5 / 60, 14 + 25 / 60)),
        ("tr", "41,0 K 28,9 D", (41.0, 28.9)),
        ("ja", "北緯35度41分22秒 東経139度41分30秒", (35 + 41 / 60 + 22 / 3600, 139 + 41.5 / 60)),
        ("", "南緯33.9度、西経18.4度", (-33.9, -18.4)),
    ],
)
def test_letters_and_words_by_language(language: str, text: str, where: tuple[float, float]) -> None:
    assert positions(text, language) == [pytest.approx(where, abs=1e-6)]


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("48.2 N 16.4 O", {(48.2, 16.4), (48.2, -16.4)}),
        ("50.1 S 14.4 V", {(50.1, 14.4), (-50.1, -14.4)}),
        ("50.1 N 14.4 V", {(50.1, 14.4), (50.1, -14.4)}),
        ("-48.2 N, 16.4 E", {(48.2, 16.4), (-48.2, 16.4)}),
    ],
)
def test_what_could_be_two_places_is_held_with_both(text: str, where: set[tuple[float, float]]) -> None:
    reading = read_coordinates(text)
    assert set(positions(text)) == where
    assert reading.position is None and reading.question


def test_parts_that_only_fit_the_globe_swapped_are_proposed_not_taken() -> None:
    reading = read_coordinates("151.2, -33.8")
    assert reading.position is None
    assert positions("151.2, -33.8") == [(-33.8, 151.2)]


@pytest.mark.parametrize(
    "text",
    ["", "12.5", "hello", "52.5 13.3 34", "54 61.0 N 1 0 W", "54°46'61\"N 1°0'0\"W", "91 N 10 E", "10 N 181 E",
     "52 30 13 24", "10 N 20 S", "54.7N 1.5W (home)", "1.5.2, 3", "N E", "48.8566°N"],
)  # fmt: skip
def test_what_is_no_place_is_asked_about(text: str) -> None:
    reading = read_coordinates(text)
    assert reading.position is None and reading.question


@given(st.floats(-90, 90), st.floats(-180, 180))
def test_what_is_written_reads_back(latitude: float, longitude: float) -> None:
    where = Position(latitude_deg=latitude, longitude_deg=longitude)
    for decimals, apart in ((6, 6e-7), (4, 6e-5), (None, 1.5e-4)):
        read = read_coordinates(write_coordinates(where, decimals=decimals)).position
        assert read is not None
        assert read.latitude_deg == pytest.approx(latitude, abs=apart)
        assert read.longitude_deg == pytest.approx(longitude, abs=apart)
