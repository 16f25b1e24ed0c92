"""Columns by name, by likeness and by memory; free text taken apart by a rule."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import OrderListError
from kizami.wording.columns import guess_columns
from kizami.wording.field_rules import FieldRule, guess_rule, take_apart
from kizami.wording.order_list import read_order_list


@pytest.mark.parametrize(
    ("header", "expected"),
    [
        pytest.param(["order", "product", "wording"], {"order": 0, "product": 1, "wording": 2}, id="our own names"),
        pytest.param(["Order #", "SKU", "Personalisation"], {"order": 0, "product": 1, "wording": 2}, id="common names"),
        pytest.param(["ORDER_NO", "Prodcut", "Engravng"], {"order": 0, "product": 1, "wording": 2}, id="misspelt"),
        pytest.param(["注文番号", "商品", "刻印", "数量"], {"order": 0, "product": 1, "wording": 2, "quantity": 3}, id="Japanese"),
        pytest.param(["Item", "Line", "Order"], {"line": 1, "order": 2}, id="the better heading wins"),
        pytest.param(["Kelp", "Weather"], {}, id="nothing known"),
    ],
)  # fmt: skip
def test_headings_are_matched(header: list[str], expected: dict[str, int]) -> None:
    places = dict(guess_columns(header).places)
    assert {k: places.get(k) for k in expected} == expected
    assert set(places) == set(expected)


HEADERS = {
    "en": ["Order ID", "SKU", "Ring size", "Personalization", "Qty", "Ship by", "Buyer name"],
    "de": ["Auftragsnummer", "Artikel-Nr.", "Ringgröße", "Gravurtext", "Stück", "Liefertermin", "Kunde"],
    "de in capitals": ["AUFTRAGS-NR.", "ARTIKELNR", "RINGGRÖSSE", "WUNSCHGRAVUR", "ANZAHL", "LIEFERDATUM", "BESTELLER"],
    "fr": ["N° de commande", "Référence", "Taille", "Texte à graver", "Qté", "Date de livraison", "Nom du client"],
    "it": ["Numero ordine", "Codice articolo", "Misura", "Incisione", "Quantità", "Data di consegna", "Cliente"],
    "es": ["Nº de pedido", "Referencia", "Talla", "Grabado", "Cantidad", "Fecha de entrega", "Comprador"],
    "pt": ["Encomenda", "Artigo", "Tamanho", "Gravação", "Quantidade", "Data de entrega", "Nome do cliente"],
    "nl": ["Ordernummer", "Artikelcode", "Ringmaat", "Graveertekst", "Aantal", "Leverdatum", "Klantnaam"],
    "pl": ["Nr zamówienia", "Kod produktu", "Rozmiar", "Treść grawera", "Ilość", "Termin realizacji", "Kupujący"],
    "cs": ["Číslo objednávky", "Kód zboží", "Velikost", "Text rytiny", "Počet kusů", "Termín dodání", "Zákazník"],
    "sv": ["Beställningsnummer", "Artikelnummer", "Ringstorlek", "Gravyrtext", "Antal", "Leveransdatum", "Kund"],
    "tr": ["Sipariş No", "Ürün Kodu", "Yüzük Ölçüsü", "Gravür Yazısı", "Adet", "Teslim Tarihi", "Müşteri Adı"],
    "ja": ["注文番号", "商品コード", "リングサイズ", "名入れ内容", "数量", "納期", "お客様名"],
}  # fmt: skip
#: Common practice, no source.
FIELD_ORDER = ("order", "product", "size", "wording", "quantity", "due", "customer")


@pytest.mark.parametrize("language", HEADERS)
def test_headings_of_twelve_languages_are_sure(language: str) -> None:
    found = guess_columns(HEADERS[language])
    assert dict(found.places) == dict(zip(FIELD_ORDER, range(7), strict=True))
    assert not found.asked


def known(cell: str) -> bool:
    return cell.startswith("R-")


@pytest.mark.parametrize(
    ("header", "rows", "expected", "asked"),
    [
        pytest.param(
            ["Order", "Name", "SKU", "Gravur"], [["1", "Ana Costa", "R-1", "Für immer"]],
            {"wording": 3, "customer": 1}, (), id="the more specific one is the wording",
        ),
        pytest.param(
            ["Order", "SKU", "Name"], [["1", "R-1", "Ana"]], {"wording": 2}, (), id="a name where there is nothing else",
        ),
        pytest.param(
            ["Order", "SKU", "Name", "E-Mail"], [["1", "R-1", "Ana", "a@example.org"]],
            {"wording": 2}, ("wording",), id="a name beside an address may be the buyer's",
        ),
        pytest.param(
            ["Order", "SKU", "Name", "Text"], [["1", "R-1", "Ana", "Für immer"]], {}, ("wording",), id="two that could be it",
        ),
        pytest.param(
            ["Order", "SKU", "Engraving", "Inscription"], [["1", "R-1", "Ana", "Ivy"]], {}, ("wording",), id="two sure ones",
        ),
        pytest.param(
            ["Order", "SKU", "Engraving", "Inscription"], [["1", "R-1", "", "Ivy"]], {"wording": 3}, (), id="the filled one",
        ),
        pytest.param(
            ["Order", "Item", "Variation SKU", "Engraving"], [["1", "Ring with name", "R-1", "Ivy"]],
            {"product": 2, "wording": 3}, (), id="a code that the shop knows before a title",
        ),
        pytest.param(
            ["Order", "What", "Engraving"], [["1", "R-1", "Ivy"], ["2", "R-2", "Kit"]], {"product": 1}, (),
            id="product codes under any heading",
        ),
        pytest.param(
            ["Order", "SKU", "Contact", "Engraving text (max. 20)"], [["1", "R-1", "a@example.org", "Ivy"]],
            {"wording": 3}, (), id="a heading with more words",
        ),
        pytest.param(
            ["Order date", "Order", "SKU", "Gravur"], [["2027-01-02", "1", "R-1", "Ivy"]], {"order": 1}, (),
            id="the date of the order is no order",
        ),
        pytest.param(
            ["Ref", "SKU", "Beschriftung"], [["A-17", "R-1", "Ivy"], ["A-18", "R-1", "Kit"]], {"order": 0}, ("order",),
            id="order numbers by what they look like",
        ),
    ],
)  # fmt: skip
def test_what_stands_in_a_column_counts(
    header: list[str], rows: list[list[str]], expected: dict[str, int], asked: tuple[str, ...]
) -> None:
    found = guess_columns(header, rows, is_product=known)
    assert {code: found.places.get(code) for code in expected} == expected
    assert found.asked == asked
    if asked:
        with pytest.raises(OrderListError, match="not sure"):
            found.confirm(header)


@pytest.mark.parametrize(
    "heading", ["E-mail", "Shipping address", "Order date", "Bestelldatum", "Courriel", "住所", "Telefon"]
)
def test_what_is_the_buyers_is_never_wording(heading: str) -> None:
    found = guess_columns(["Order", "SKU", heading], [["1", "R-1", "Ana Street"]], is_product=known)
    assert 2 not in found.places.values()


def test_a_filled_column_that_means_nothing_is_named() -> None:
    header = ["Order", "SKU", "Gravur", "Kantenschliff", "Leer"]
    found = guess_columns(header, [["1", "R-1", "Ana", "ja", ""]], is_product=known)
    assert [header[place] for place in found.unknown] == ["Kantenschliff"]
    assert "Kantenschliff" in found.told(header)[-1]


def test_what_the_desk_set_is_remembered_and_wins() -> None:
    header = ["Order", "Product", "Name", "Lettering"]
    remembered = {"wording": "Lettering", "customer": "Name", "size": ""}
    places = guess_columns(header, remembered=remembered).places
    assert (places["wording"], places["customer"]) == (3, 2)
    found = guess_columns(["Size", *header], [["54", "1", "R", "Ana", "Ivy"]], remembered=remembered)
    assert found.places.get("size") is None
    # What is filled in this list is not passed over in silence.
    assert "“Size”" in found.told(["Size", *header])[0]
    # A remembered column that is gone falls back to guessing.
    assert (
        guess_columns(["Order", "Product", "Name"], remembered={"wording": "Lettering"}).places["wording"]
        == 2
    )


@given(st.lists(st.text(max_size=15), max_size=12))
def test_no_column_is_given_to_two_fields(header: list[str]) -> None:
    places = list(guess_columns(header).places.values())
    assert len(places) == len(set(places))


TEXTS = [
    "Name: Ana / Date: 4 May 2026 / Font: plain",
    "Name: Ivy / Date: 2026 / Font: script",
    "Name: Kit / Font: x",
]


def test_a_rule_is_guessed_from_the_rows() -> None:
    rule = guess_rule(TEXTS)
    assert rule is not None
    assert (rule.separator, rule.keys["name"], rule.keys["date"], rule.keys["font"]) == (
        "/",
        "wording",
        "second",
        "typeface",
    )
    assert take_apart(TEXTS[0], rule) == {"wording": "Ana", "second": "4 May 2026", "typeface": "plain"}


@pytest.mark.parametrize(
    "texts", [[], ["", " "], ["Ana", "Ivy", "To: Kit"], ["Psalm 23:4", "Mark 1:1"], ["A=B"]]
)
def test_plain_wording_needs_no_rule(texts: list[str]) -> None:
    assert guess_rule(texts) is None


RULE = FieldRule(separator="/", keys={"name": "wording", "date": "second", "font": ""})


@pytest.mark.parametrize(
    ("text", "fields"),
    [
        ("Name: Ana", {"wording": "Ana"}),
        ("name = Ana/Date:2026", {"wording": "Ana", "second": "2026"}),
        ("Name: A/C Milan fan / Date: 1", {"wording": "A/C Milan fan", "second": "1"}),
        ("Name: 10:30", {"wording": "10:30"}),
        ("just words", {"wording": "just words"}),
        ("Font: plain", {"wording": "Font: plain"}),
        ("  ", {}),
        ("Name: / Date: 2026", {"wording": "", "second": "2026"}),
    ],
)
def test_taking_apart(text: str, fields: dict[str, str]) -> None:
    assert take_apart(text, RULE) == fields


@given(st.text(st.sampled_from("abN :/=ame\nDt1"), max_size=40))
def test_no_letter_is_lost_in_taking_apart(text: str) -> None:
    parts = take_apart(text, RULE)
    kept = "".join(parts.values())
    keys = sum((text.lower().count(k) * len(k) for k in ("name", "date")), 0)
    letters = sum(c.isalnum() for c in text)
    assert sum(c.isalnum() for c in kept) >= letters - keys


def test_a_list_with_free_text_reads_through_its_rule() -> None:
    data = b"order,product,text\nA1,R6,Name: Ana / Date: 2026 / Font: plain\nA2,R6,Ivy\n"
    first, second = read_order_list(data, rule=RULE).rows
    assert (first.wording, first.second, first.note) == ("Ana", "2026", "Font: plain")
    assert (second.wording, second.second) == ("Ivy", "")


def test_priority_note_and_set_are_read() -> None:
    data = b"order,product,wording,priority,note,set\nA1,R6,Ana,RUSH,Happy day,crew\nA2,R6,Ivy,,,\nA3,R6,Kit,maybe,,\n"
    result = read_order_list(data)
    first, second = result.rows
    assert (first.rush, first.note, first.set_name) == (True, "Happy day", "crew")
    assert (second.rush, second.note, second.set_name) == (False, "", "")
    assert "maybe" in result.set_aside[0].reason
