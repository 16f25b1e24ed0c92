"""Write the names that ship, from faker (MIT licence, beside the files).

forecast-names.txt: a thousand given and family names of eight locales, which a forecast tries when it is
given none. short-names.txt: given names of two to four Latin letters, which look like initials in capitals.

Run it once: PYTHONPATH=src:. .venv/bin/python scripts/gather-names.py
"""

from __future__ import annotations

import importlib
import pkgutil
import unicodedata
from pathlib import Path

import faker.providers.person

from benchmarks.names import names

TARGET = Path(__file__).parent.parent / "src" / "kizami" / "data"


def short_names() -> set[str]:
    """Given names of all locales, folded."""
    found = set()
    for locale in pkgutil.iter_modules(faker.providers.person.__path__):
        provider = importlib.import_module(f"faker.providers.person.{locale.name}").Provider
        for kind in ("first_names", "first_names_male", "first_names_female"):
            given = getattr(provider, kind, ())
            # Some locales work theirs out when they are asked.
            found |= (
                set() if isinstance(given, property) else {str(name).strip().casefold() for name in given}
            )
    return {n for n in found if 2 <= len(n) <= 4 and n.isalpha() and _is_latin(n)}


def _is_latin(name: str) -> bool:
    return all(unicodedata.name(letter, "").startswith("LATIN") for letter in name)


if __name__ == "__main__":
    (TARGET / "forecast-names.txt").write_text("\n".join(names(1000)) + "\n", "utf-8")
    (TARGET / "short-names.txt").write_text("\n".join(sorted(short_names())) + "\n", "utf-8")
