"""The language that a list is written in, as far as its headings tell it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from types import MappingProxyType

from kizami.wording.headings import fold_heading

__all__ = ["language_of"]

#: Words of headings that one language has and the others do not (from memory of lists, common practice).
_TELLING = MappingProxyType({
    "en": "engraving engrave quantity qty ship size order colour color wording customer buyer due personalization "
          "personalisation line item name",
    "de": "bestellung bestellnr bestellnummer auftrag auftragsnummer gravur menge anzahl stück liefertermin größe ringgröße "
          "farbe kunde zeile artikelnummer wunschtext schrift",
    "fr": "commande gravure taille quantité qté livraison couleur ligne référence prénom courriel texte client",
    "it": "ordine incisione misura quantità consegna colore riga codice nome testo cliente",
    "es": "pedido grabado grabar talla cantidad entrega línea código nombre correo fecha",
    "pt": "encomenda gravação gravar tamanho quantidade linha artigo cor morada",
    "nl": "bestelnummer bestelling graveertekst gravering ringmaat maat aantal leverdatum kleur regel naam klant",
    "pl": "zamówienia zamówienie grawer grawerunek rozmiar ilość termin kolor linia imię kod",
    "cs": "objednávka objednávky rytina rytiny velikost množství termín barva řádek jméno zboží",
    "sv": "ordernr gravyr storlek antal leveransdatum färg rad namn kund",
    "tr": "sipariş gravür beden adet teslim renk satır isim yazı ürün",
    "hu": "rendelés gravírozás méret mennyiség darab határidő szín név vevő termék",
    "vi": "đơn khắc số lượng kích cỡ tên màu",
    "ja": "注文番号 商品コード サイズ 刻印 数量 納期 名前 色 行 名入れ",
})  # fmt: skip


def _owners() -> dict[str, frozenset[str]]:
    found: dict[str, set[str]] = {}
    for language, words in _TELLING.items():
        for word in words.split():
            found.setdefault(fold_heading(word), set()).add(language)
    return {word: frozenset(languages) for word, languages in found.items()}


_OWNERS = _owners()


def language_of(headings: Iterable[str]) -> str:
    """A language as two letters, or "" where the headings tell none, or two alike.

    >>> language_of(["Bestellnr.", "Gravur", "Menge"]), language_of(["Order", "Gravur"]), language_of([])
    ('de', '', '')
    """
    found: Counter[str] = Counter()
    for heading in headings:
        folded = fold_heading(heading)
        for word in {folded, *folded.split()}:
            found.update(_OWNERS.get(word, ()))
    ranked = found.most_common(2)
    if not ranked or (len(ranked) > 1 and ranked[0][1] == ranked[1][1]):
        return ""
    return ranked[0][0]
