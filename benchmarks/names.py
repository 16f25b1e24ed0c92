"""Real names of an open dataset (faker, MIT): a thousand of eight locales, the same at every run."""

from __future__ import annotations

from functools import cache

from faker import Faker

__all__ = ["names", "names_in"]

_LOCALES = ("en_GB", "de_DE", "fr_FR", "pl_PL", "es_ES", "tr_TR", "nl_NL", "sv_SE")
#: Locales whose names are written in other scripts, for the typefaces made for them.
_OTHER = {
    "Grek": "el_GR", "Cyrl": "ru_RU", "Hebr": "he_IL", "Arab": "ar_SA", "Hira": "ja_JP", "Deva": "hi_IN",
    "Beng": "bn_BD", "Taml": "ta_IN", "Thai": "th_TH", "Armn": "hy_AM", "Geor": "ka_GE",
}  # fmt: skip


@cache
def names(count: int = 1000) -> tuple[str, ...]:
    """Given and family names in the Latin script, in turn, none twice."""
    return _drawn(_LOCALES, count)


@cache
def names_in(script: str, count: int = 1000) -> tuple[str, ...]:
    """Names in the script of this ISO 15924 code; Latin when there is no other."""
    return _drawn((_OTHER[script],), count) if script in _OTHER else names(count)


def _drawn(locales: tuple[str, ...], count: int) -> tuple[str, ...]:
    fakers = [Faker(locale) for locale in locales]
    for seed, fake in enumerate(fakers):
        fake.seed_instance(seed)
    seen: dict[str, None] = {}
    for number in range(count * 200):
        if len(seen) >= count:
            break
        fake = fakers[number % len(fakers)]
        turn = number // len(fakers) % 3
        name = (fake.first_name, fake.last_name, lambda f=fake: f"{f.first_name()} {f.last_name()}")[turn]()
        seen.setdefault(name)
    return tuple(seen)
