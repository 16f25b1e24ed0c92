"""What stands in a cell beside the words or instead of them: answers, remarks, counts, other fields, marks.

A careful person sees two readings in “Anna / Tom” (a line each, or a stroke between), in “Anna x2” and in
“Anna (deceased)”, and none that could be engraved in “Yes” or “your choice”. In twelve languages, from memory of
lists (common practice, no source).
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

__all__ = ["Remark", "lines_marked", "remark_in", "remark_instead"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Remark:
    """What is said of the words, with what may be meant, the likeliest first."""

    said: str
    candidates: tuple[str, ...] = ()


def _whole(words: str) -> re.Pattern[str]:
    parts = [re.escape(part.strip()) for part in words.split("|") if part.strip()]
    return re.compile(rf"^[\s\"'(\[]*(?:{'|'.join(parts)})[\s.!)\]\"']*$", re.I)


_ANSWER = _whole("""
    yes | yes please | yep | true | false | on | off | ✓ | ✔ | ☑ | ☒ | ok | okay | y | ja | ja bitte | ja gerne | wahr | falsch | mit gravur |
    oui | vrai | faux | avec | avec gravure | sì | si | vero | falso | con incisione | sí | verdadero | con grabado | sim | verdadeiro |
    com gravação | ja graag | waar | met gravure | tak | prawda | fałsz | ano | pravda | ja tack | sant | evet | doğru | はい | 有り | あり | 有 | ○ |
    with engraving | engrave | engraved | included
""")
_LATER = re.compile(
    r"^(?:tb[cda]|to be (?:confirmed|decided|advised))\b"
    r"|^(?:n/?a|none|nothing|blank|keine?|aucun|nessuno|ninguno|geen|brak)\s*[-–—,;(/]"
    r"|^(?:i(?:'m| am)? )?(?:not sure|don'?t know|unsure)\b|^(?:please )?(?:call|phone|ring|text|e-?mail|contact) (?:me|us|her|him)\b(?!.*\d)"
    r"|^(?:as|like) (?:discussed|agreed|per (?:phone|call)|(?:in |on )?(?:the )?(?:photo|picture|sample|image|website|listing)|shown)\b"
    r"|^same as (?:the )?(?:photo|picture|image|sample)"
    r"|^(?:surprise me|whatever|your choice|you choose|up to you)\b.{0,24}$"
    r"|^any(?:thing)?(?: is fine| goes| will do| you like| works| ok(?:ay)?)?[.!]*$"
    r"|^(?:wie (?:besprochen|abgebildet|vereinbart|auf dem (?:bild|foto)|telefonisch)|laut (?:telefonat|absprache)|nach wahl|egal|beliebig|"
    r"weiß (?:ich )?(?:noch )?nicht|noch (?:offen|unklar)|bitte (?:anrufen|melden|rückfragen?))\b"
    r"|^(?:comme (?:convenu|sur la photo|discuté)|au choix|à définir|je ne sais pas|appelez)\b"
    r"|^(?:come (?:concordato|da (?:foto|accordi))|a scelta|da definire|non so)\b"
    r"|^(?:según lo acordado|como (?:acordado|en la foto|hablamos)|a elegir|por definir|no sé)\b"
    r"|^(?:conforme combinado|como na foto|à escolha|a definir|não sei)\b"
    r"|^(?:zoals (?:besproken|afgesproken|op de foto)|naar keuze|weet niet|nog onbekend)\b"
    r"|^(?:jak (?:uzgodniono|ustalono|na zdjęciu)|do ustalenia|dowolnie|nie wiem)\b"
    r"|^(?:dle dohody|jak (?:bylo )?domluveno|jako na fotce|dle výběru|nevím)\b"
    r"|^(?:enligt överenskommelse|som på bilden|valfri(?:tt)?|vet inte)\b"
    r"|^(?:konuşulduğu gibi|fotoğraftaki gibi|farketmez|fark etmez|bilmiyorum)\b"
    r"|^(?:お任せ|おまかせ|未定|相談|写真の通り|写真と同じ|打ち合わせ)"
    r"|^(?:default|standard|the usual|usual|as usual|wie immer|wie üblich|comme toujours|del solito)$",
    re.I,
)
_ADDRESS = re.compile(r"^(?:https?://|www\.)\S+$|^\S+@\S+\.\w{2,}$", re.I)


def remark_instead(text: str) -> Remark | None:
    """What stands there instead of any words, or None.

    >>> remark_instead("Yes").said, remark_instead("Yesenia") is None, remark_instead("") is None
    ('answers a question; ask for the words', True, True)
    """
    if _ANSWER.match(text):
        return Remark(said="answers a question; ask for the words")
    if _LATER.match(text):
        return Remark(said="leaves the words open; ask for them")
    if _ADDRESS.match(text):
        return Remark(said="is an address, not wording; ask for the words", candidates=(text,))
    return None


#: Signs that editors and chats show for the end of a line, and the words for it in brackets.
_LINE_MARK = re.compile(
    r"\s*(?:[↵⏎¶␤]|[(\[<{]\s*(?:new ?line|line ?break|next line|neue zeile|zeilenumbruch|absatz|"
    r"(?:nouvelle|à la) ligne|saut de ligne|a capo|nuova riga|nueva línea|salto de línea|nova linha|quebra de linha|"
    r"nieuwe regel|nowa linia|nový řádek|ny rad|yeni satır|改行)\s*[)\]>}])\s*",
    re.I,
)


def lines_marked(text: str) -> str:
    """Marks for the end of a line as line ends: nothing else can be meant by them.

    >>> lines_marked("Anna ⏎ Tom"), lines_marked("Anna (new line) Tom"), lines_marked("Anna")
    ('Anna\\nTom', 'Anna\\nTom', 'Anna')
    """
    return _LINE_MARK.sub("\n", text)


_PARTED = re.compile(r"\s+[/\\]\s+|\s*//\s*|\s*\|+\s*|\s*\\[nr]\s*")
_SIDES = (
    r"line|zeile|ligne|riga|línea|linea|linha|regel|linia|řádek|rad|satır|row|front|back|inside|outside|side|vorne|hinten|innen|außen|"
    r"vorderseite|rückseite|recto|verso|avant|arrière|devant|derrière|intérieur|extérieur|davanti|dietro|fronte|retro|interno|esterno|"
    r"delante|detrás|anverso|reverso|dentro|fuera|frente|trás|fora|voor|voorkant|achter|achterkant|binnen|buiten|przód|tył|wewnątrz|"
    r"přední|zadní|uvnitř|framsida|baksida|insida|utsida|ön|arka|iç|dış"
)
_SIDED = re.compile(
    rf"(?:^|[\s,;(])(?:{_SIDES})\s*\d?\s*[:=]\s*\S|(?:表|裏|内側|外側|\d行目)\s*[:：]"
    r"|^\(?1\s*[.):]\s*\S.*\s\(?2\s*[.):]\s*\S",
    re.I | re.S,
)
_COUNTED = re.compile(
    r"^(?P<words>.*\S)\s+[(\[]?(?:[x×*]\s?\d{1,2}|\d{1,2}\s?[x×])[)\]]?$|^\d{1,2}\s?[x×]\s+(?P<after>\S.*)$"
    r"|^(?P<before>.*\S)\s*[(\[]\s*\d{1,3}\s*(?:pcs?|pieces?|stk|stück|mal|pièces?|pezzi|piezas|peças|stuks|szt|ks|st|adet|個|枚)\.?\s*[)\]]$",
    re.I,
)
_SIGN_WORDS = {
    "♥": "heart herz coeur cœur cuore corazón corazon coração coracao hart hartje serce srdce hjärta kalp ハート",
    "★": "star stern étoile stella estrella estrela ster gwiazda gwiazdka hvězda stjärna yıldız 星",
    "∞": "infinity unendlich infini infinito oneindig nieskończoność nekonečno oändlighet sonsuzluk",
    "": "paw pfote patte zampa anchor anker ancre ancora cross kreuz croix croce cruz moon mond lune luna flower blume fleur fiore flor "
        "smiley emoji symbol sign icon logo music note",
}  # fmt: skip
_SIGN_OF = {word: sign for sign, words in _SIGN_WORDS.items() for word in words.split()}
_SIGNED = re.compile(
    r"[(\[{:<*]\s*(?:a |ein |un |une |small |kleines )?([^\W\d_]+)(?: symbol| emoji| sign| icon)?\s*[)\]}:>*]",
    re.I,
)
_HEART_TYPED = re.compile(r"<\s?3(?!\d)")
_METAL = (
    r"(?:(?:rose|white|yellow|rosé|weiß|weiss|gelb|rot)[ -]?)?gold|(?:sterling[ -]?)?silver|silber|argent|argento|oro(?: (?:rosa|bianco|blanco|giallo))?|"
    r"plata|prata|ouro|zilver|goud|srebro|złoto|stříbro|zlato|silver|guld|gümüş|altın|platin(?:um)?|platine?|bronze|brass|messing|steel|stahl|"
    r"stainless steel|edelstahl|\d{1,2} ?(?:k|kt|ct|karat)(?: gold)?|925|black|schwarz|noir|natur"
)
_FONT = (
    r"script|cursive|italics?|bold|serif|sans(?:[ -]serif)?|block(?: letters| capitals)?|schreibschrift|druckschrift|druckbuchstaben|kursiv|fett|"
    r"cursiva|negrita|corsivo|grassetto|stampatello|cursief|vet|kursywa|kurziv|筆記体|ゴシック体?|明朝体?|楷書体?"
)
_FONT_NUMBER = re.compile(r"\b(?:font|typeface|schrift(?:art)?|police|carattere|fuente|letra|fonte|lettertype|czcionka|písmo|typsnitt|yazı tipi)\s*"
                          r"(?:no\.?|nr\.?|#|n°)?\s*[A-Z]?\d{1,3}\b|フォント\s*\d", re.I)  # fmt: skip
_SIZED = re.compile(
    r"^(?:ring ?)?(?:size|sz|grösse|größe|gr|taille|misura|taglia|talla|tamanho|maat|rozmiar|velikost|storlek|beden|サイズ)\b\.?\s*[:=]?\s*"
    r"(?:[A-Z]{0,3}\s?\d|(?:x{0,2}[sl]|m)\b)",
    re.I,
)
_ONLY_OTHER = re.compile(rf"^(?:in |en |aus |de |di )?(?:{_METAL}|{_FONT})$", re.I)
_NAMED = re.compile(
    r"^(?i:(?:(?:my|the|his|her|their) )?name (?:is |to be |should be )?|(?:il )?(?:mio |suo )?nome (?:è )?)(?=[A-ZÀ-Þ])"
    r"|^(?i:(?:my|the|his|her) name is |(?:mein|der|sein|ihr) name (?:ist )?|(?:mon|le|son) (?:pré)?nom (?:est )?"
    r"|(?:mi|el|su) nombre (?:es )?|(?:o )?(?:meu|seu) nome (?:é )?|(?:mijn|de|zijn|haar) naam (?:is )?)",
)
_DOUBTING = re.compile(r"^(?P<words>.*[^\s?])\s*\?{2,}$|^(?P<marked>.*\S)\s*\(\?+\)$", re.S)
_REMARKED = re.compile(r"^(?P<words>.*\S)\s*\((?P<inner>[^()]*[^\W\d_]{2}[^()]*)\)[.!]?$", re.S)
#: In brackets that belong to a name: how it was at birth.
_BORN = re.compile(
    r"(?:n[ée]e?|geb(?:\.|orene?)|born|nata|nato|nacid[ao]|nascid[ao]|z domu|roz(?:ená|\.)|född|旧姓)\b", re.I
)
_LAID_OUT = re.compile(
    r"\b(?:(?:all )?(?:small|lower ?case|capital) letters|kleinbuchstaben|klein ?geschrieben|groß ?geschrieben|minuscules|minuscole|minúsculas|"
    r"kleine letters|małymi literami|malými písmeny|gemener|küçük harf\w*|no (?:spaces?|dots?|punctuation|commas?)|without (?:spaces?|dots?)|"
    r"ohne (?:punkte?|leerzeichen|komma)|sans espace|as (?:big|large|small) as possible|so (?:groß|klein) wie möglich|"
    r"(?:left|right)[ -]aligned|cent(?:er|re)d|zentriert|linksbündig|rechtsbündig|centré|centrato|centrado|gecentreerd|wyśrodkowan\w+|"
    r"with (?:a )?(?:heart|star)s?|mit herz(?:chen)?|avec un c(?:œ|oe)ur|con (?:un )?(?:cuore|corazón)|com coração|met (?:een )?hart(?:je)?|"
    r"z sercem|se srdcem|med hjärta|kalpli)\b|小文字で|ハート付き|中央",
    re.I,
)  # fmt: skip


def remark_in(text: str) -> Remark | None:
    """What is said beside the words in the same cell, or None.

    >>> remark_in("Anna / Tom").candidates
    ('Anna\\nTom', 'Anna / Tom')
    >>> remark_in("Anna x2").candidates, remark_in("24/7") is None, remark_in("Anna (1950–2020)") is None
    (('Anna', 'Anna x2'), True, True)
    """
    for find in _FINDERS:
        found = find(text)
        if found is not None:
            return found
    return None


def _sided(text: str) -> Remark | None:
    return (
        Remark(said="says which words go where; write them in their fields") if _SIDED.search(text) else None
    )


def _parted(text: str) -> Remark | None:
    parts = [part for part in _PARTED.split(text) if part.strip()]
    if len(parts) < 2 or all(part.strip().isdigit() for part in parts):
        return None
    return Remark(
        said="may be one line or several, as a stroke often stands for a line end",
        candidates=("\n".join(parts), text),
    )


def _counted(text: str) -> Remark | None:
    match = _COUNTED.match(text)
    if match is None:
        return None
    words = match["words"] or match["after"] or match["before"]
    if words.isdigit():
        return None
    return Remark(said="has a number of pieces with it", candidates=(words, text))


def _signed(text: str) -> Remark | None:
    match = next((m for m in _SIGNED.finditer(text) if m[1].casefold() in _SIGN_OF), None)
    sign = _SIGN_OF[match[1].casefold()] if match else ""
    match = match or _HEART_TYPED.search(text)
    if match is None:
        return None
    sign = sign or ("♥" if match.re is _HEART_TYPED else "")
    drawn = (f"{text[: match.start()]}{sign}{text[match.end() :]}",) if sign else ()
    return Remark(said="names a sign that may be meant to be drawn", candidates=(*drawn, text))


def _other_field(text: str) -> Remark | None:
    if _ONLY_OTHER.match(text):
        return Remark(said="may be a metal, a colour or a typeface instead of the words", candidates=(text,))
    if _FONT_NUMBER.search(text) or _SIZED.match(text):
        return Remark(said="says a typeface or a size; write the words alone")
    return None


def _named(text: str) -> Remark | None:
    match = _NAMED.match(text)
    return (
        Remark(said="may be meant without its first words", candidates=(text[match.end() :], text))
        if match
        else None
    )


def _doubting(text: str) -> Remark | None:
    match = _DOUBTING.match(text)
    if match is None:
        return None
    return Remark(said="is in doubt itself", candidates=(match["words"] or match["marked"], text))


def _remarked(text: str) -> Remark | None:
    match = _REMARKED.match(text)
    if match is None or _BORN.match(match["inner"]):
        return None
    return Remark(
        said="may be meant with or without what stands in brackets", candidates=(match["words"], text)
    )


def _laid_out(text: str) -> Remark | None:
    return Remark(said="says how it shall be done; write the words alone") if _LAID_OUT.search(text) else None


_FINDERS: tuple[Callable[[str], Remark | None], ...] = (
    _sided, _counted, _signed, _laid_out, _parted, _other_field, _named, _doubting, _remarked,
)  # fmt: skip
