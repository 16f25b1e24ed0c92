"""Rows that a careful person would ask about, and their near neighbours that he would not."""

from __future__ import annotations

import pytest
from faker import Faker
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.doubts import doubt_about
from kizami.wording.plan import WordingKind, WordingPlan
from kizami.wording.settling import settle

INITIALS = WordingPlan(kind=WordingKind.INITIALS)
MONOGRAM = WordingPlan(kind=WordingKind.MONOGRAM)


@pytest.mark.parametrize(
    "text",
    [
        "See you soon", "Text me: 555", "Psalm 23:4", "12:30", "007", "=love", "@home", "+1", "-5 °C", "What?", "who?",
        "50% love", "100%", "Für immer: du", "Same Day", "As Above So Below", "#1 Dad",
        "Ditto Smith", "Ohne Dich", "Stay Gold", "Silver Lining", "Marie Curie (née Skłodowska)", "C'est la vie", "A=B",
        "Ångström", "Noël", "Škoda", "Ñandú", "Ünal",
    ],
)  # fmt: skip
def test_what_can_be_meant_is_not_doubted(text: str) -> None:
    assert doubt_about(text) is None


@pytest.mark.parametrize(
    ("text", "candidates"),
    [
        ("[Anna]", ("Anna", "[Anna]")), ('"Anna"', ("Anna", '"Anna"')), ("Ã‰", ("É",)), ("ZoÃ«", ("Zoë",)), ("GroÃŸ", ("Groß",)),
        ("Anna (in script)", ()), ("please engrave Anna", ()), ("Anna - gold", ()), ("Font: Arial", ()),
        ("bitte gravieren: Anna", ()), ("Anna in Schreibschrift", ()), ("Anna\\nTom", ("Anna\nTom", "Anna\\nTom")), ("Really?yes", ()),
        ("?lodie", ()), ("{A}", ()), ("Mr. {lastname}", ()), ("will follow", ()), ("Lorem ipsum dolor", ()),
        ("same", ()), ("Do", ()), ("名入れお願いします", ()),
    ],
)  # fmt: skip
def test_what_has_two_readings_or_none_is_doubted(text: str, candidates: tuple[str, ...]) -> None:
    found = doubt_about(text)
    assert found is not None and found.question
    assert found.candidates == candidates


@pytest.mark.parametrize("locale", ["en_GB", "de_DE", "fr_FR", "it_IT", "es_ES", "pt_PT", "nl_NL", "pl_PL", "cs_CZ", "sv_SE", "tr_TR",
                                    "ja_JP", "el_GR", "ru_RU", "he_IL", "ar_SA", "ko_KR", "zh_CN", "vi_VN", "hu_HU"])  # fmt: skip
def test_real_names_are_hardly_ever_doubted(locale: str) -> None:
    # Names of faker (MIT): a name that is also a word of a form may be asked about, no more.
    fake = Faker(locale)
    fake.seed_instance(5)
    names = [fake.first_name() for _ in range(300)] + [fake.last_name() for _ in range(300)]
    doubted = [name for name in names if doubt_about(name) is not None]
    assert len(doubted) <= 0.01 * len(names), doubted


@given(st.text(max_size=40))
def test_any_text_is_doubted_or_not_but_never_breaks(text: str) -> None:
    doubt_about(text)
    settle(text, INITIALS)
    settle(text, MONOGRAM)


@pytest.mark.parametrize(
    ("name", "letters"),
    [
        ("John E Smith", "JES"), ("Anna Weiß, M.D.", "AW"), ("Karl von und zu Guttenberg", "KG"), ("Rhys ap Gruffydd", "RG"),
        ("Abdul al-Rashid", "AR"), ("J.R.R. Tolkien", "JRT"), ("e. e. cummings", "EEC"), ("Sean Mc Donald", "SM"),
        ("Peter Parker!", "PP"), ("Don Harper", "DH"), ("Ijeoma Obi", "IO"), ("IJsbrand Vos", "IJV"), ("AB.", "AB"),
        ("(ABC)", "ABC"), ("R T M", "RTM"), ("Mary Ann Evans", "MAE"), ("Jean-Luc Picard", "JLP"), ("JOHN E SMITH", "JES"),
        ("O'Connor, Sinéad", "SO"), ("남궁민수", "남민"), ("欧阳娜娜", "欧娜"), ("王小明", "王小"), ("山田太郎様", None), ("さとみ", "さ"), ("太郎と花子", None),
        ("José Ortega y Gasset", None), ("JD Smith", None), ("Mia u. Leo", None), ("Mia/Leo", None), ("Mia, Leo", None),
        ("The Smiths", None), ("Fam. Müller", None), ("Anna (Oma)", None), ("Anna *2001", None), ("Omar Al-Rashid", None),
        ("Kim Do Yun", None), ("LEE", None), ("john e smith", None), ("Ana Bea Clara Dee", None), ("Mr & Mrs Smith", None),
    ],
)  # fmt: skip
def test_initials_that_are_clear_are_taken_and_the_others_asked(name: str, letters: str | None) -> None:
    settled = settle(name, INITIALS)
    if letters is None:
        # What was received stands until a person has chosen.
        assert settled.open_question and settled.wording.text == name
        assert settled.candidates
    else:
        assert (settled.wording.text, settled.open_question) == (letters, "")


def test_a_vietnamese_monogram_is_asked_about_and_others_are_not() -> None:
    assert settle("Nguyễn Văn An", MONOGRAM).candidates == ("VNA", "NAV")
    assert settle("Ana Beatriz Costa", MONOGRAM).wording.text == "ACB"
