"""Text folded for searching: small letters without accents, so that “zolkiew” finds Żółkiewska.

The database folds, by its own rules for accents and special letters, both what is stored and what is typed.
"""

from __future__ import annotations

from typing import Any

from django.db import connection, models
from django.db.models import F, Func, TextField, Value
from django.db.models.functions import Concat

__all__ = ["FOLD_SQL", "Fold", "fold_words", "line_text"]

#: `unaccent` alone may not be used where a value is kept, as its rules could be changed; here they are named.
FOLD_SQL = """
CREATE OR REPLACE FUNCTION kizami_fold(words text) RETURNS text
LANGUAGE sql IMMUTABLE PARALLEL SAFE STRICT
AS $$ SELECT lower(public.unaccent('public.unaccent', normalize(words, NFKC)) COLLATE "und-x-icu") $$
"""


class Fold(Func):
    """A text folded by the database."""

    function = "kizami_fold"
    output_field = TextField()


def line_text() -> Fold:
    """All of a line that is searched, folded."""
    between = Value(" ", output_field=TextField())
    parts: list[Any] = [F("order"), Value("-", output_field=TextField()), F("line")]
    for name in ("wording", "second", "customer", "logo", "set_name"):
        parts += [between, F(name)]
    return Fold(Concat(*parts, output_field=models.TextField()))


_FOLD_WORDS = """
    SELECT array_agg(kizami_fold(word) ORDER BY place)
    FROM unnest(%s::text[]) WITH ORDINALITY AS t(word, place)
"""


def fold_words(words: list[str]) -> list[str]:
    """Words as they stand in folded text."""
    if not words:
        return []
    with connection.cursor() as cursor:
        cursor.execute(_FOLD_WORDS, [words])
        return list(cursor.fetchone()[0])
