"""Stuck capitals are proposed away; what could be meant survives."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.capitals import propose_capitals


@pytest.mark.parametrize(
    ("text", "title", "proposed"),
    [
        ("jOHN", False, "John"),
        ("jOHN sMITH", False, "John Smith"),
        ("éLOÏSE", False, "Éloïse"),
        ("MIRIAM", True, "Miriam"),
        ("MIRIAM", False, None),
        ("miriam", True, "Miriam"),
        ("miriam", False, None),
        ("Miriam", True, None),
        ("McIntyre", True, None),
        ("MCINTYRE", True, "McIntyre"),
        ("van der Berg", True, None),
        ("Ana van der Berg", True, None),
        ("ANA VAN DER BERG", True, "Ana van der Berg"),
        ("VAN DER BERG", True, "Van der Berg"),
        ("O'Neil", True, None),
        ("O'NEIL", True, "O'Neil"),
        ("o'neil", True, "O'Neil"),
        ("ANA'S", True, "Ana's"),
        ("DJ", True, None),
        ("JR", True, None),
        ("DJ MAX", True, "DJ Max"),
        ("JOHN SMITH JR", True, "John Smith JR"),
        ("HENRY VIII", True, "Henry VIII"),
        ("ANNE-MARIE", True, "Anne-Marie"),
        ("DeShawn", True, None),
        ("iPod", False, None),
        ("eBay", False, None),
        ("名前", True, None),
        ("123", True, None),
        ("", True, None),
        ("STRAßE", True, None),
    ],
)
def test_proposals(text: str, title: bool, proposed: str | None) -> None:
    assert propose_capitals(text, title_case=title) == proposed


@given(st.text(), st.booleans())
def test_only_the_case_of_letters_changes_and_once_is_enough(text: str, title: bool) -> None:
    proposed = propose_capitals(text, title_case=title)
    if proposed is not None:
        assert proposed.casefold() == text.casefold()
        assert propose_capitals(proposed, title_case=title) in (None, proposed)
