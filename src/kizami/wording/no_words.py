"""What stands where wording should and is none: forms left unfilled, “without engraving”, “see above”, HTML.

Some of it means that nothing was written; some points elsewhere, and a person must look there. Words of twelve
languages, from memory of lists (common practice, no source).
"""

from __future__ import annotations

import re
import unicodedata
from enum import Enum
from functools import lru_cache

from kizami.wording.headings import HEADINGS, KEPT, fold_heading

__all__ = [
    "FIELD_NAMES",
    "NOTHING",
    "Pointing",
    "fold_words",
    "is_unfilled",
    "points_elsewhere",
    "seems_several",
]


def _phrases(text: str) -> frozenset[str]:
    return frozenset(part.strip() for part in text.split("|") if part.strip())


#: Words that forms leave behind when nobody filled them in. Every shop edits its own.
NOTHING: frozenset[str] = _phrases("""
    text | your text | your text here | name | name here | your name | your name here | sample | sample text | example |
    test | n/a | na | none | null | nil | nan | undefined | tbc | tbd | tba | xxx | - | -- | --- | — | – | . | .. | ... |
    … | ? | ?? | ??? | * | ** | / | x | engraving | wording | no engraving | no text | no personalisation |
    no personalization | not personalised | not personalized | no name | without engraving | without text | without |
    no thanks | no thank you | no | nope | nein | non | nee | nej | hayır | いいえ | to be confirmed | to be decided |
    blank | leave blank | left blank | empty | nothing | plain | not applicable | lorem ipsum |
    enter text here | type here | enter name | enter your text | ihr text | ihr name | mustertext | beispiel |
    ohne gravur | keine gravur | ohne text | kein text | ohne | keine | keiner | kein | nichts | leer | entfällt |
    ohne namen | sans gravure | pas de gravure | sans texte | sans | aucun | aucune | rien | vide | néant | votre texte |
    votre nom | senza incisione | nessuna incisione | senza testo | senza | nessuno | nessuna | niente | vuoto |
    il tuo testo | sin grabado | sin grabar | sin texto | sin | ninguno | ninguna | nada | vacío | tu texto | su texto |
    sem gravação | sem texto | sem | nenhum | nenhuma | vazio | seu texto | zonder gravure | geen gravure |
    zonder tekst | zonder | geen | niets | leeg | uw tekst | n.v.t | nvt | bez grawera | bez grawerunku | bez graweru |
    bez tekstu | bez | brak | nie dotyczy | puste | nic | twój tekst | bez rytiny | bez gravírování | bez textu | žádný |
    žádné | prázdné | není | váš text | utan gravyr | ingen gravyr | utan text | utan | ingen | inget | tom text |
    din text | gravürsüz | gravür yok | yazısız | yazı yok | yok | boş | hiçbiri | metniniz | 刻印なし | 刻印無し |
    名入れなし | 名入れ無し | なし | 無し | ナシ | 無 | 不要 | 特になし | 未定 | 空欄 | サンプル | お名前
""")


class Pointing(Enum):
    """Where words point that are no wording themselves."""

    ABOVE = "above"
    BEFORE = "before"
    ELSEWHERE = "elsewhere"


_ABOVE = _phrases("""
    see above | as above | same as above | same | the same | ditto | do | idem | id | " | '' | ,, | „ | 〃 | ″ | same text | same name |
    same engraving | same wording | siehe oben | s.o. | s. o. | so | wie oben | dito | dto | gleich | das gleiche | dasselbe |
    gleicher text | gleiche gravur | voir ci-dessus | ci-dessus | comme ci-dessus | même texte | pareil | vedi sopra |
    come sopra | stesso testo | idem come sopra | véase arriba | ver arriba | igual | ídem | lo mismo | mismo texto |
    como arriba | ver acima | igual ao anterior | o mesmo | mesmo texto | zie boven | zie hierboven | zelfde | hetzelfde |
    j.w. | jw | jak wyżej | to samo | patrz wyżej | viz výše | jako výše | stejné | totéž | dtto | se ovan | samma | som ovan |
    yukarıdaki gibi | aynı | aynısı | yukarıya bakınız | 同上 | 上記同様 | 上に同じ | 同じ
""")  # fmt: skip
_BEFORE = _phrases("""
    same as last time | same as before | as last time | as before | like last time | as last order | see last order |
    same as last order | see previous order | wie letztes mal | wie zuletzt | wie beim letzten mal | wie gehabt |
    wie letzte bestellung | siehe letzte bestellung | comme la dernière fois | comme d'habitude | come l'ultima volta |
    come la volta scorsa | come al solito | como la última vez | igual que la última vez | como siempre |
    como da última vez | zoals vorige keer | als vorige keer | jak ostatnio | jak poprzednio | jako minule | jako posledně |
    som förra gången | som sist | geçen seferki gibi | önceki gibi | 前回同様 | 前回と同じ | いつもの
""")  # fmt: skip
_ELSEWHERE = re.compile(
    r"^(?:please |pls )?(?:see|check|refer to|per|as per|look at)\b.{0,40}\b(?:e-?mail|mail|note|notes|message|attach\w*|file|"
    r"picture|photo|image|comment|list|order|below|next|chat|pdf|sheet)\b"
    r"|^(?:siehe|laut|gemäß|gemäss|lt\.?)\b.{0,40}\b(?:e-?mail|mail|notiz|nachricht|anhang|anlage|datei|bild|foto|liste|"
    r"bemerkung|unten|bestellung|skizze)\b"
    r"|^(?:voir|selon)\b.{0,40}\b(?:mail|courriel|note|message|pièce jointe|fichier|photo|image|liste|ci-dessous|commentaire)\b"
    r"|^(?:vedi|come da)\b.{0,40}\b(?:mail|email|nota|messaggio|allegato|file|foto|sotto)\b"
    r"|^(?:ver|véase|según)\b.{0,40}\b(?:correo|email|mail|nota|mensaje|adjunto|archivo|foto|abajo|anexo|abaixo)\b"
    r"|^zie\b.{0,40}\b(?:mail|e-mail|bijlage|opmerking|bericht|bestand|foto|onder|hieronder)\b"
    r"|^(?:patrz|wg|według|zob\.?)\b.{0,40}\b(?:mail|e-mail|załącznik|uwagi|wiadomość|plik|zdjęcie|niżej)\b"
    r"|^(?:viz|dle)\b.{0,40}\b(?:mail|e-mail|příloha|přílohy|poznámka|zpráva|soubor|foto|níže)\b"
    r"|^se\b.{0,40}\b(?:mejl|mail|bilaga|anteckning|meddelande|fil|bild|nedan)\b"
    r"|\b(?:e-?posta|ek|dosya|not|mesaj)\w*\b.{0,20}\b(?:bakınız|bkz)\b|^bkz\b"
    r"|(?:メール|備考|添付|別紙|画像|下記|メモ).{0,6}(?:参照|見て|ご覧|通り|とおり)"
    r"|^(?:will (?:send|follow|e-?mail)|to follow|wird nachgereicht|folgt(?: noch)?|à venir|à suivre|seguirà|a confirmar|"
    r"volgt(?: nog)?|kommer|後日連絡|追って連絡)\b.{0,40}$",
    re.I,
)

#: A field that may name itself in front of what it holds.
FIELD_NAMES: frozenset[str] = frozenset(
    heading for heading, (code, _, _) in HEADINGS.items() if code in ("wording", "second")
) | {"nimi", "jmeno", "naem", "name 1", "engraved name", "engrave name", "name auf ring"}

_TEMPLATE = re.compile(
    r"\{\{?\s*[\w. -]{0,40}\s*\}?\}|\$\{[^}]{0,40}\}|%[A-Z][A-Z_ ]{1,30}%|\*\|[^|]{1,40}\|\*|«[\w ]{1,40}»|\[\[[^\]]{1,40}\]\]|"
    r"<%=?[^%]{0,40}%>|#\{[^}]{0,40}\}|\{%[^%]{0,40}%\}|%\([a-z_]{1,30}\)s|__[A-Z_]{2,30}__|\|\|[A-Z_]{2,30}\|\|",
    re.I,
)  # fmt: skip
_BRACKETED = re.compile(r"[\[(<{]\s*([^\])>}]{1,60}?)\s*[\])>}]")


def _plain(text: str) -> str:
    """Small, in one line, every sign as its plain form; ASCII has no other forms."""
    normal = text if text.isascii() else unicodedata.normalize("NFKC", text)
    return " ".join(normal.casefold().split())


@lru_cache(maxsize=1024)
def fold_words(text: str) -> str:
    """Words as they are looked up: plain, small, without marks around them."""
    plain = _plain(text)
    return plain.strip(" []()<>{}*_!:;").rstrip(".").strip() or plain


def is_unfilled(text: str) -> str:
    """The part of a text that is a field of a form that nobody filled in, or "".

    >>> is_unfilled("To {first_name}"), is_unfilled("[Your name]"), is_unfilled("[ABC]"), is_unfilled("Ana")
    ('{first_name}', '[Your name]', '', '')
    """
    found = _TEMPLATE.search(text)
    if found:
        return found[0]
    for match in _BRACKETED.finditer(text):
        inner = fold_words(match[1])
        named = fold_heading(match[1])
        words = set(inner.split())
        is_asked = bool(
            words
            & {
                "your",
                "ihr",
                "ihre",
                "enter",
                "insert",
                "votre",
                "tu",
                "su",
                "il",
                "uw",
                "twój",
                "váš",
                "din",
            }
        )
        if (
            named in HEADINGS
            or named in KEPT
            or (is_asked and len(words) > 1)
            or inner in NOTHING - {"x", ""}
        ):
            return match[0]
    return ""


def points_elsewhere(text: str) -> Pointing | None:
    """Whether words only point to others, and to which.

    >>> points_elsewhere("siehe oben").value, points_elsewhere("See attached file").value
    ('above', 'elsewhere')
    >>> points_elsewhere("See you soon") is None, points_elsewhere("") is None
    (True, True)
    """
    plain = _plain(text)
    bare = fold_words(text)
    if not plain:
        return None
    if plain in _ABOVE or bare in _ABOVE:
        return Pointing.ABOVE
    if plain in _BEFORE or bare in _BEFORE:
        return Pointing.BEFORE
    return Pointing.ELSEWHERE if _ELSEWHERE.search(plain) else None


_KEY = re.compile(r"(?:^|[/;|,\n]|\s-\s)\s*([^\W\d_][\w .#'’-]{0,30}?)\s*[:=](?!\d|//)\s*\S")


def seems_several(text: str) -> bool:
    """Whether a text names several fields, as in “Name: Ana / Font: script”: then it is no one's wording.

    >>> seems_several("Name: Ana / Font: script"), seems_several("Psalm 23:4"), seems_several("For: Ana")
    (True, False, False)
    """
    keys = [fold_heading(match) for match in _KEY.findall(text)]
    return len(keys) >= 2 and any(key in HEADINGS or key in KEPT for key in keys)
