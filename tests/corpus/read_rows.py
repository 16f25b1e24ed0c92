"""Rows in twelve languages, each with what a careful person would engrave, or that he would ask.

Wordings are put together from parts whose reading is known (a given name, a middle letter, a family name), so
that what is wanted never comes from the code that is tried. Names are faker's (MIT), dates are written by Babel
from the Unicode CLDR, phrases and headings are common practice, no source.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import random
from collections.abc import Iterator
from dataclasses import dataclass

from babel.dates import format_date
from faker import Faker

__all__ = ["LANGUAGES", "Case", "List", "lists"]

LANGUAGES = ("en", "de", "fr", "it", "es", "pt", "nl", "pl", "cs", "sv", "tr", "ja")
_LOCALES = {"en": "en_GB", "ja": "ja_JP", "cs": "cs_CZ", "sv": "sv_SE", "pt": "pt_PT"}
_HEADINGS = {
    "en": ["Order ID", "SKU", "Ring size", "Personalization", "Line 2", "Qty", "Ship by", "Color", "Buyer name", "E-mail"],
    "de": ["Bestellnr.", "Artikelnummer", "Ringgröße", "Gravur", "Zeile 2", "Menge", "Liefertermin", "Farbe", "Name", "E-Mail"],
    "fr": ["N° de commande", "Référence", "Taille", "Gravure", "Ligne 2", "Qté", "Date de livraison", "Couleur", "Nom", "Courriel"],
    "it": ["Nr. ordine", "Codice", "Misura", "Testo incisione", "Riga 2", "Quantità", "Consegna", "Colore", "Nome", "Email"],
    "es": ["Pedido", "Código", "Talla", "Texto a grabar", "Línea 2", "Cantidad", "Entrega", "Color", "Nombre", "Correo"],
    "pt": ["Nº encomenda", "Artigo", "Tamanho", "Gravação", "Linha 2", "Quantidade", "Entrega", "Cor", "Nome", "Email"],
    "nl": ["Bestelnummer", "Artikel", "Ringmaat", "Graveertekst", "Regel 2", "Aantal", "Leverdatum", "Kleur", "Naam", "E-mail"],
    "pl": ["Nr zamówienia", "Kod produktu", "Rozmiar", "Grawer", "Linia 2", "Ilość", "Termin realizacji", "Kolor", "Imię", "E-mail"],
    "cs": ["Objednávka", "Kód zboží", "Velikost", "Text rytiny", "Řádek 2", "Množství", "Termín", "Barva", "Jméno", "E-mail"],
    "sv": ["Ordernr", "Artikelnummer", "Storlek", "Gravyr", "Rad 2", "Antal", "Leveransdatum", "Färg", "Namn", "E-post"],
    "tr": ["Sipariş No", "Stok Kodu", "Beden", "Gravür", "Satır 2", "Adet", "Teslim tarihi", "Renk", "İsim", "E-posta"],
    "ja": ["注文番号", "商品コード", "サイズ", "刻印", "2行目", "数量", "納期", "色", "名前", "メール"],
}  # fmt: skip
_FIELD_IN_FRONT = {
    "en": "Engraving: ", "de": "Gravur: ", "fr": "Prénom : ", "it": "Nome: ", "es": "Texto: ", "pt": "Gravação: ",
    "nl": "Naam: ", "pl": "Imię: ", "cs": "Jméno: ", "sv": "Namn: ", "tr": "İsim: ", "ja": "刻印：",
}  # fmt: skip
_NOTHING = {
    "en": ["no engraving", "None", "n/a", "without engraving"], "de": ["ohne Gravur", "keine", "entfällt", "kein Text"],
    "fr": ["sans gravure", "aucune", "pas de gravure", "rien"], "it": ["senza incisione", "nessuna", "niente", "senza testo"],
    "es": ["sin grabado", "ninguno", "sin texto", "nada"], "pt": ["sem gravação", "nenhuma", "sem texto", "nada"],
    "nl": ["zonder gravure", "geen", "n.v.t.", "geen tekst"][:3], "pl": ["bez grawera", "brak", "nie dotyczy", "bez tekstu"],
    "cs": ["bez rytiny", "žádný", "bez textu", "není"], "sv": ["utan gravyr", "ingen", "ingen gravyr", "utan text"],
    "tr": ["gravür yok", "yok", "yazısız", "boş"], "ja": ["刻印なし", "なし", "無し", "不要"],
}  # fmt: skip
_POINTING = {
    "en": ["see above", "same as last time", "see attached file", "ditto"],
    "de": ["siehe oben", "wie letztes Mal", "siehe Anhang", "dito"],
    "fr": ["voir ci-dessus", "comme la dernière fois", "voir pièce jointe", "idem"],
    "it": ["vedi sopra", "come l'ultima volta", "vedi allegato", "idem"],
    "es": ["ver arriba", "como la última vez", "ver adjunto", "ídem"],
    "pt": ["ver acima", "como da última vez", "ver anexo", "idem"],
    "nl": ["zie boven", "zoals vorige keer", "zie bijlage", "idem"],
    "pl": ["jak wyżej", "jak ostatnio", "patrz załącznik", "j.w."],
    "cs": ["viz výše", "jako minule", "viz příloha", "dtto"],
    "sv": ["se ovan", "som förra gången", "se bilaga", "samma"],
    "tr": ["yukarıdaki gibi", "geçen seferki gibi", "ekteki dosyaya bakınız", "aynı"],
    "ja": ["同上", "前回同様", "メール参照", "〃"],
}
_YES = {"en": "Yes", "de": "Ja", "fr": "Oui", "it": "Sì", "es": "Sí", "pt": "Sim", "nl": "Ja graag", "pl": "Tak",
        "cs": "Ano", "sv": "Ja tack", "tr": "Evet", "ja": "あり"}  # fmt: skip
_AGREED = {
    "en": "as discussed", "de": "wie besprochen", "fr": "comme convenu", "it": "come concordato",
    "es": "según lo acordado", "pt": "conforme combinado", "nl": "zoals besproken", "pl": "jak uzgodniono",
    "cs": "dle dohody", "sv": "enligt överenskommelse", "tr": "konuşulduğu gibi", "ja": "お任せ",
}  # fmt: skip
_AND = {"en": "and", "de": "und", "fr": "et", "it": "e", "es": "y", "pt": "e", "nl": "en", "pl": "i", "cs": "a", "sv": "och",
        "tr": "ve", "ja": "と"}  # fmt: skip


@dataclass(frozen=True, kw_only=True, slots=True)
class Case:
    """One row.

    Attributes
    ----------
    cells : in the order of the headings, without the order number
    why : what is tried
    wanted : the words that a careful person would engrave; None where he would ask
    size, quantity, due : as he would read them, None where that is not tried
    """

    cells: tuple[str, ...]
    why: str
    wanted: str | None
    size: str | None = None
    quantity: int | None = None
    due: dt.date | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class List:
    """A list in one language as a file, with its cases in the order of its rows."""

    language: str
    data: bytes
    cases: tuple[Case, ...]


def lists(rows_each: int = 250) -> Iterator[List]:
    """A list in every language, the same at every run."""
    for number, language in enumerate(LANGUAGES):
        rnd = random.Random(number)
        fake = Faker(_LOCALES.get(language, f"{language}_{language.upper()}"))
        fake.seed_instance(number)
        cases: list[Case] = []
        while len(cases) < rows_each:
            cases.extend(_cases(language, fake, rnd))
        chosen = tuple(cases[:rows_each])
        out = io.StringIO(newline="")
        writer = csv.writer(out, delimiter=rnd.choice(",;\t"))
        writer.writerow(_HEADINGS[language])
        for row, case in enumerate(chosen):
            writer.writerow([f"{language.upper()}-{1000 + row}", *case.cells])
        yield List(language=language, data=out.getvalue().encode(), cases=chosen)


def _row(
    product: str,
    wording: str,
    *,
    size: str = "",
    second: str = "",
    quantity: str = "1",
    due: str = "",
    colour: str = "",
) -> tuple[str, ...]:
    return (product, size, wording, second, quantity, due, colour, "Tansy Marlow", "t@example.org")


def _cases(language: str, fake: Faker, rnd: random.Random) -> Iterator[Case]:
    yield from _plain(language, fake, rnd)
    yield from _initials(language, fake, rnd)
    yield from _sizes_and_counts(language, fake, rnd)
    yield from _to_ask(language, fake, rnd)


def _given(fake: Faker) -> str:
    """A given name of one word, longer than initials are."""
    while True:
        name: str = fake.first_name()
        if len(name) > 1 and name.isalpha() and not (name.isascii() and len(name) < 3):
            return name


def _family(fake: Faker) -> str:
    while True:
        name: str = fake.last_name()
        if len(name) > 1 and name.isalpha():
            return name


def _plain(language: str, fake: Faker, rnd: random.Random) -> Iterator[Case]:
    one, two, other = _given(fake), _given(fake), _family(fake)
    tag = "CREW-TAG"
    yield Case(cells=_row(tag, one), why="a name", wanted=one)
    yield Case(cells=_row(tag, f"  {one} \u00a0 {other} "), why="spaces", wanted=f"{one} {other}")
    yield Case(cells=_row(tag, f"{one} &amp; {two}"), why="an entity", wanted=f"{one} & {two}")
    yield Case(cells=_row(tag, f"<b>{one}</b>"), why="marks of a web page", wanted=one)
    yield Case(
        cells=_row(tag, f"{_FIELD_IN_FRONT[language]}{one}"), why="the field's name in front", wanted=one
    )
    yield Case(cells=_row(tag, f"{one}\u200b"), why="something invisible", wanted=one)
    yield Case(cells=_row(tag, f"{one} 2027"), why="a number is wording too", wanted=f"{one} 2027")
    yield Case(cells=_row(tag, f"O\u2019{other}"), why="a typographic apostrophe", wanted=f"O'{other}")
    date = dt.date(2027, rnd.randint(1, 12), rnd.randint(13, 28))
    yield Case(
        cells=_row("NAME-PLATE", one, due=format_date(date, "long", locale=language)), why="a date in words",
        wanted=one, due=date,
    )  # fmt: skip
    yield Case(cells=_row("NAME-PLATE", one, due=date.isoformat()), why="an ISO date", wanted=one, due=date)
    dotted = f"{date.day:02d}.{date.month:02d}.{date.year}"
    yield Case(cells=_row("NAME-PLATE", one, due=dotted), why="a date with dots", wanted=one, due=date)
    slashed = f"{date.day:02d}/{date.month:02d}/{date.year}"
    yield Case(cells=_row("NAME-PLATE", one, due=slashed), why="a day above twelve", wanted=one, due=date)

    yield Case(
        cells=_row(tag, f"{one}\n{two}"), why="two lines where two have a place", wanted=f"{one}\n{two}"
    )
    yield Case(cells=_row(tag, f"{one}<br>{two}"), why="two lines of a web page", wanted=f"{one}\n{two}")
    yield Case(cells=_row(tag, f"{one} ⏎ {two}"), why="a mark for a line end", wanted=f"{one}\n{two}")
    yield Case(cells=_row(tag, f"{one} 24/7"), why="a stroke within a word", wanted=f"{one} 24/7")
    yield Case(cells=_row(tag, f"{one} (1950–2020)"), why="years in brackets", wanted=f"{one} (1950–2020)")
    yield from _places(language, rnd)


#: Places as their languages write them, east of Greenwich and west of it (common practice, no source).
_EAST = {
    "en": "48.2082 N, 16.3738 E", "de": "48,2082 N 16,3738 O", "fr": "48,2082° N, 16,3738° E",
    "it": "48,2082 Nord, 16,3738 Est", "es": "48,2082 N; 16,3738 E", "pt": "48,2082 N 16,3738 L",
    "nl": "48,2082° N.B. 16,3738° O.L.", "pl": "48,2082 N 16,3738 E",
    "cs": "48,2082° s. š., 16,3738° v. d.", "sv": "48,2082 N 16,3738 Ö", "tr": "48.2082 K, 16.3738 D",
    "ja": "北緯48.2082度、東経16.3738度",
}  # fmt: skip
_WEST = {
    "en": "40.4168 N, 3.7038 W", "de": "40,4168 N 3,7038 W", "fr": "40,4168 N 3,7038 O", "it": "40,4168 N 3,7038 O",
    "es": "40,4168 N 3,7038 O", "pt": "40,4168 N 3,7038 O", "nl": "40,4168 N 3,7038 W", "pl": "40,4168 N 3,7038 W",
    "cs": "40,4168° s. š., 3,7038° z. d.", "sv": "40,4168 N 3,7038 V", "tr": "40.4168 K, 3.7038 B",
    "ja": "北緯40.4168度、西経3.7038度",
}  # fmt: skip
#: The same place in forms that belong to no language; the second is in degrees and minutes, ISO 6709 the last.
_ANYWHERE = (
    "48.2082, 16.3738", "N 48° 12.492' E 016° 22.428'", "48°12'29.52\"N 16°22'25.68\"E", "48 12 29.52 N 16 22 25.68 E",
    "48-12-29.52N, 16-22-25.68E", "48.2082/16.3738", "16.3738 E 48.2082 N", "+48.2082+016.3738/",
)  # fmt: skip


def _places(language: str, rnd: random.Random) -> Iterator[Case]:
    tag, east, west = "PLACE-TAG", "48.2082° N 16.3738° E", "40.4168° N 3.7038° W"
    yield Case(cells=_row(tag, _EAST[language]), why="a place in the east", wanted=east)
    yield Case(cells=_row(tag, _WEST[language]), why="a place in the west", wanted=west)
    for written in rnd.sample(_ANYWHERE, 3):
        yield Case(cells=_row(tag, written), why="a place in figures", wanted=east)


def _initials(language: str, fake: Faker, rnd: random.Random) -> Iterator[Case]:
    tag = "PLOT-TAG"
    if language == "ja":
        family, given = "山田", "花子"
        yield Case(cells=_row(tag, f"{family} {given}"), why="a Japanese name with a space", wanted="山花")
        yield Case(cells=_row(tag, "やまだ はなこ"), why="in kana", wanted="やは")
        yield Case(cells=_row(tag, "林太郎"), why="without a space", wanted=None)
        yield Case(cells=_row(tag, f"{family} {given}様"), why="with a word of courtesy", wanted="山花")
        yield Case(cells=_row(tag, "M.K."), why="letters already", wanted="MK")
        return
    one, middle, other = _given(fake), _given(fake), _family(fake)
    while other.endswith("ez") or middle.endswith("ez"):
        middle, other = _given(fake), _family(fake)

    def first(name: str) -> str:
        return "İ" if language == "tr" and name[0] in "iİ" else name[0].upper()

    a, m, z = first(one), first(middle), first(other)
    yield Case(cells=_row(tag, f"{one} {other}"), why="given and family name", wanted=a + z)
    yield Case(cells=_row(tag, f"{one} {middle} {other}"), why="three names", wanted=a + m + z)
    yield Case(cells=_row(tag, f"{other}, {one}"), why="family name first, with a comma", wanted=a + z)
    yield Case(cells=_row(tag, f"Dr. {one} {other}"), why="a title", wanted=a + z)
    yield Case(cells=_row(tag, f"{one} {other} Jr."), why="a suffix", wanted=a + z)
    yield Case(
        cells=_row(tag, f"{one} E {other}"), why="a middle letter that joins elsewhere", wanted=f"{a}E{z}"
    )
    yield Case(cells=_row(tag, f"{one} van der {other}"), why="small particles", wanted=a + z)
    yield Case(cells=_row(tag, "R.T.M."), why="letters with stops", wanted="RTM")
    yield Case(cells=_row(tag, "RTM"), why="letters", wanted="RTM")
    yield Case(cells=_row(tag, "(RTM)"), why="letters in brackets", wanted="RTM")
    yield Case(cells=_row(tag, "R T M"), why="letters with spaces", wanted="RTM")
    yield Case(cells=_row(tag, "J & K"), why="two letters joined", wanted="J&K")
    yield Case(cells=_row(tag, f"Don {other}"), why="a name that is a title elsewhere", wanted=f"D{z}")
    yield Case(cells=_row(tag, f"Ijeoma {other}"), why="no Dutch letter", wanted=f"I{z}")
    yield Case(cells=_row(tag, f"{one} Van {other}"), why="a particle with a capital", wanted=None)
    yield Case(
        cells=_row(tag, rnd.choice(("TOM", "ANA", "EVA", "LEO"))), why="a short name or letters", wanted=None
    )
    yield Case(cells=_row(tag, f"{one} & {middle} {other}"), why="two people", wanted=None)
    yield Case(cells=_row(tag, f"Mr. and Mrs. J. {other}"), why="a couple", wanted=None)
    yield Case(
        cells=_row(tag, f"{one} {middle} Clara {other}"), why="four names for three letters", wanted=None
    )
    if language not in ("cs",):
        yield Case(
            cells=_row(tag, f"{one} {_AND[language]} {middle}"), why="two joined by a word", wanted=None
        )


_SIZES = (
    ("US7", "US 7"), ("7.5 US", "US 7.5"), ("US 7-1/2", "US 7.5"), ("US 7½", "US 7.5"), ("JP13", "JP 13"), ("13号", "JP 13"),
    ("T52", "ISO 52"), ("EU 52", "ISO 52"), ("Ø17,2", "17.2 mm"), ("17.2mm", "17.2 mm"), ("54", "ISO 54"), ("UK L½", "UK L½"),
    ("L 1/2", "UK L½"), ("CH 14", "CH 14"), ("IT 14", "IT 14"), ("54,5", "ISO 54.5"),
)  # fmt: skip
_COUNTS = (("2x", 2), ("2 pcs", 2), ("2 Stück", 2), ("2個", 2), ("3,0", 3), ("x 2", 2), ("２", 2), ("1.0", 1))


def _sizes_and_counts(language: str, fake: Faker, rnd: random.Random) -> Iterator[Case]:
    name = _given(fake)
    for written, read in rnd.sample(_SIZES, 5):
        yield Case(
            cells=_row("CHOIR-RING", name, size=written), why=f"the size {written}", wanted=name, size=read
        )
    for written, count in rnd.sample(_COUNTS, 3):
        yield Case(
            cells=_row("CREW-TAG", name, quantity=written),
            why=f"the quantity {written}",
            wanted=name,
            quantity=count,
        )
    for written in ("M", "S", "7", "large", "52-54"):
        yield Case(cells=_row("CHOIR-RING", name, size=written), why=f"the size {written}", wanted=None)
    for written in ("1.000", "1_0", "two"):
        yield Case(cells=_row("CREW-TAG", name, quantity=written), why=f"the quantity {written}", wanted=None)


def _to_ask(language: str, fake: Faker, rnd: random.Random) -> Iterator[Case]:
    tag, name, other = "CREW-TAG", _given(fake), _given(fake)
    for words in rnd.sample(_NOTHING[language], 2):
        yield Case(cells=_row(tag, words), why="nothing is meant", wanted=None)
    for words in rnd.sample(_POINTING[language], 2):
        yield Case(cells=_row(tag, words), why="it points elsewhere", wanted=None)
    for words in ("{first_name}", "%NAME%", "[Name]", "{{ name }}", "*|FNAME|*", "${text}"):
        yield Case(cells=_row(tag, words), why="a form left unfilled", wanted=None)
    for words in ("#N/A", "#NAME?", "=A1", "=SUM(A1:A3)"):
        yield Case(cells=_row(tag, words), why="a formula or its error", wanted=None)
    yield Case(cells=_row(tag, "Jürgen".encode().decode("cp1252")), why="letters spoilt twice", wanted=None)
    yield Case(cells=_row(tag, "J\ufffdrgen"), why="a lost letter", wanted=None)
    yield Case(cells=_row(tag, "J?rgen"), why="a question mark for a letter", wanted=None)
    yield Case(cells=_row(tag, f"Name: {name} / Font: Script"), why="several fields", wanted=None)
    yield Case(
        cells=_row("CHOIR-RING", f"{name}\n{other}", size="54"), why="lines without a place", wanted=None
    )
    yield Case(cells=_row(tag, f"{name}\n{other}\n2027"), why="more lines than have a place", wanted=None)
    yield Case(cells=_row("PLOT-TAG", f"{name}\n{other}"), why="lines of letters", wanted=None)
    yield Case(cells=_row("PLACE-TAG", "48.2082"), why="half a place", wanted=None)
    yield Case(cells=_row("PLACE-TAG", "148.2 N, 16.4 E"), why="a place off the globe", wanted=None)
    yield Case(cells=_row("PLACE-TAG", "-48.2 N, 16.4 E"), why="a sign against its letter", wanted=None)
    yield Case(cells=_row(tag, _YES[language]), why="an answer", wanted=None)
    yield Case(cells=_row(tag, _AGREED[language]), why="left open", wanted=None)
    for words in rnd.sample(
        (f"{name} / {other}", f"{name} x2", f"{name} (deceased)", f"{name} ???", f"{name} <3 {other}",
         f"1. {name} 2. {other}", f"{name} | {other}", "https://example.org/picture", "rose gold", "t@example.org"), 5,
    ):  # fmt: skip
        yield Case(cells=_row(tag, words), why="a remark beside the words", wanted=None)
    if language in ("en", "pl", "ja"):
        yield Case(cells=_row("PLACE-TAG", "48.2 N 16.4 O"), why="an O of no known language", wanted=None)
    yield Case(cells=_row(tag, name, second=other), why="a second wording without a place", wanted=None)
    yield Case(cells=_row(tag, name, colour="magenta"), why="a colour without a choice", wanted=None)
    yield Case(cells=_row(tag, name, due="31.02.2027"), why="no such day", wanted=None)
