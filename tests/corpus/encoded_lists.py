"""Lists of 1 to 200 rows in seventeen older encodings, with names that the product does not ship.

Names are faker's (MIT); one in five of those with letters beyond ASCII is kept back from the names that ship.
"""

from __future__ import annotations

import hashlib
import importlib
import random
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from kizami.errors import OrderListError
from kizami.wording.letters import ENCODINGS
from kizami.wording.tables import read_table

__all__ = ["EncodedList", "encoded_lists", "is_kept_back", "names_of_locale", "read_back"]

#: Locales whose lists come in an encoding (common practice, no source).
_LOCALES: dict[str, tuple[str, ...]] = {
    "Windows-1252": (
        "de_DE",
        "fr_FR",
        "es_ES",
        "it_IT",
        "sv_SE",
        "nl_NL",
        "pt_PT",
        "fi_FI",
        "is_IS",
        "ga_IE",
    ),
    "Windows-1250": ("pl_PL", "cs_CZ", "sk_SK", "hu_HU", "hr_HR", "sl_SI", "de_DE"),
    "Windows-1251": ("ru_RU", "bg_BG", "uk_UA"),
    "Windows-1253": ("el_GR",),
    "Windows-1254": ("tr_TR",),
    "Windows-1257": ("lt_LT", "lv_LV", "et_EE"),
    "Mac Roman": ("de_DE", "fr_FR", "es_ES", "it_IT", "sv_SE", "pt_PT"),
    "ISO 8859-2": ("pl_PL", "cs_CZ", "hu_HU", "hr_HR"),
    "ISO 8859-5": ("ru_RU", "bg_BG"),
    "ISO 8859-7": ("el_GR",),
    "ISO 8859-9": ("tr_TR",),
    "ISO 8859-15": ("fr_FR", "fi_FI", "de_DE"),
    "Shift-JIS": ("ja_JP",),
    "EUC-JP": ("ja_JP",),
    "GBK": ("zh_CN",),
    "Big5": ("zh_TW",),
    "EUC-KR": ("ko_KR",),
}
_HEADINGS = {
    "ja_JP": "注文番号,商品,名入れ", "zh_CN": "订单号,产品,刻字内容", "zh_TW": "訂單號,產品,刻字內容", "ko_KR": "주문번호,상품,각인문구",
}  # fmt: skip
_PLAIN = ("Anna", "Tom", "Marlow", "Bryn", "Ivy", "Kit", "Okonkwo", "Halloran", "Winter", "Ng")


@dataclass(frozen=True, kw_only=True, slots=True)
class EncodedList:
    """A list as bytes, with its text and the name of its encoding."""

    data: bytes
    text: str
    encoding: str


def is_kept_back(name: str) -> bool:
    """One in five, always the same."""
    return hashlib.sha256(name.encode()).digest()[0] % 5 == 0


@cache
def names_of_locale(locale: str) -> frozenset[str]:
    """Given and family names of a locale that are not plain ASCII."""
    provider = importlib.import_module(f"faker.providers.person.{locale}").Provider
    found: set[str] = set()
    for kind in dir(provider):
        if not kind.startswith(("first_name", "last_name")) or kind.endswith("formats"):
            continue
        given = getattr(provider, kind)
        if isinstance(given, (list, tuple, dict)) or hasattr(given, "keys"):
            # Pairs of a name and how it sounds hold the name first.
            found |= {(name if isinstance(name, str) else name[0]).strip() for name in given}
    return frozenset(
        unicodedata.normalize("NFC", n) for n in found if n and not n.isascii() and n.isprintable()
    )


def encoded_lists(count: int, *, seed: int = 11) -> Iterator[EncodedList]:
    """So many lists, the encodings in turn."""
    rnd = random.Random(seed)
    encodings = list(_LOCALES)
    for number in range(count):
        name = encodings[number % len(encodings)]
        locale = rnd.choice(_LOCALES[name])
        pool = sorted(n for n in names_of_locale(locale) if is_kept_back(n) and _has(n, ENCODINGS[name]))
        rows = rnd.randint(1, 200)
        telling = max(1, round(rows * rnd.choice((0.05, 0.2, 0.5, 1.0))))
        words = [rnd.choice(pool) if row < telling else rnd.choice(_PLAIN) for row in range(rows)]
        rnd.shuffle(words)
        lines = "".join(f"A{row},R-1,{word}\n" for row, word in enumerate(words))
        text = f"{_HEADINGS.get(locale, 'order,product,wording')}\n{lines}"
        yield EncodedList(data=text.encode(ENCODINGS[name]), text=text, encoding=name)


def _has(name: str, codec: str) -> bool:
    try:
        name.encode(codec)
    except UnicodeEncodeError:
        return False
    return True


def read_back(one: EncodedList) -> str:
    """“right”, “asked” or “wrong”."""
    try:
        table = read_table(one.data)
    except OrderListError:
        return "asked"
    if table.doubt:
        return "asked"
    rows = [",".join(row.cells) for row in table.rows]
    return "right" if rows == one.text.splitlines()[1:] else "wrong"
