"""Write the names that ship, from faker (MIT licence, beside the files).

forecast-names.txt: a thousand given and family names of eight locales, which a forecast tries when it is
given none. short-names.txt: given names of two to four Latin letters, which look like initials in capitals.
given-names.txt: what is a given name in more locales than a family name: “Smith, John” is one person.
lettered-names.txt: names with letters beyond ASCII, by which the encoding of a list is told, in groups of
languages; one in five is kept back for the tests. Names that read like a product were taken out by hand.

Run it once: PYTHONPATH=src:. .venv/bin/python scripts/gather-names.py
"""

from __future__ import annotations

import hashlib
import importlib
import pkgutil
import unicodedata
from collections import Counter
from pathlib import Path

import faker.providers.person

from benchmarks.names import names
from tests.corpus.encoded_lists import is_kept_back, names_of_locale

TARGET = Path(__file__).parent.parent / "src" / "kizami" / "data"


_GIVEN = ("first_names", "first_names_male", "first_names_female")
_FAMILY = ("last_names", "last_names_male", "last_names_female")


def _in_locales(kinds: tuple[str, ...]) -> Counter[str]:
    """Folded Latin names with the number of locales that have them."""
    found: Counter[str] = Counter()
    for locale in pkgutil.iter_modules(faker.providers.person.__path__):
        provider = importlib.import_module(f"faker.providers.person.{locale.name}").Provider
        # Some locales work theirs out when they are asked.
        lists = [names for kind in kinds if not isinstance(names := getattr(provider, kind, ()), property)]
        found.update({str(name).strip().casefold() for names in lists for name in names})
    return Counter({n: count for n, count in found.items() if n.isalpha() and _is_latin(n)})


def short_names() -> set[str]:
    """Given names of all locales, of two to four letters."""
    return {name for name in _in_locales(_GIVEN) if 2 <= len(name) <= 4}


def given_names() -> set[str]:
    """Names that more locales give than hand down."""
    handed_down = _in_locales(_FAMILY)
    return {n for n, count in _in_locales(_GIVEN).items() if len(n) > 1 and count > handed_down[n]}


def lettered_names() -> dict[str, frozenset[str]]:
    """Given and family names that are not plain ASCII, by locale."""
    return {
        locale.name: names_of_locale(locale.name)
        for locale in pkgutil.iter_modules(faker.providers.person.__path__)
    }


def shipped_of(names: frozenset[str]) -> list[str]:
    """So many of a locale at most, that no small country outweighs a large one."""
    kept = (name for name in names if not is_kept_back(name))
    return sorted(kept, key=lambda name: hashlib.sha256(name.encode()).digest())[:MOST_OF_A_LOCALE]


#: Languages whose lists come in one group of encodings; all others with Latin letters are western.
GROUPS = {
    "central": {"cs", "hr", "hu", "pl", "ro", "sk", "sl"},
    "turkish": {"tr", "az"},
    "baltic": {"et", "lt", "lv"},
}


def grouped(names: dict[str, frozenset[str]]) -> str:
    """Names below the group of encodings that their language is written in, each once in a group."""
    found: dict[str, set[str]] = {group: set() for group in (*GROUPS, "western", "other")}
    for locale, of_locale in names.items():
        language = locale.split("_")[0]
        group = next((g for g, languages in GROUPS.items() if language in languages), "western")
        for name in shipped_of(of_locale):
            letters = "".join(letter for letter in name if letter.isalpha())
            found[group if _is_latin(letters) else "other"].add(name)
    return "".join(f"# {group}\n" + "".join(f"{name}\n" for name in sorted(found[group])) for group in found)


def _is_latin(name: str) -> bool:
    return all(unicodedata.name(letter, "").startswith("LATIN") for letter in name)


MOST_OF_A_LOCALE = 500

if __name__ == "__main__":
    (TARGET / "forecast-names.txt").write_text("\n".join(names(1000)) + "\n", "utf-8")
    (TARGET / "lettered-names.txt").write_text(grouped(lettered_names()), "utf-8")
    (TARGET / "given-names.txt").write_text("\n".join(sorted(given_names())) + "\n", "utf-8")
    (TARGET / "short-names.txt").write_text("\n".join(sorted(short_names())) + "\n", "utf-8")
