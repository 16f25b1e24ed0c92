"""Every word that stands in a line, once or a few times, so that a slip in a search finds what was meant.

The database keeps them itself whenever lines are stored. Nothing holds that a word is kept once: two lists
that are taken at the same time would have to wait for each other's words, and could wait in a ring. A word
whose line has gone stays until the words are gathered anew.
"""

from __future__ import annotations

from django.db import connection

__all__ = ["FORWARD_SQL", "REVERSE_SQL", "gather_words_anew", "words_of_length"]

FORWARD_SQL = """
CREATE FUNCTION orders_words_of(folded text) RETURNS SETOF text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT word FROM string_to_table(translate(folded, '-/.,;:_+&()', '           '), ' ') AS word
    WHERE length(word) BETWEEN 2 AND 40
$$;
CREATE FUNCTION orders_keep_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'INSERT' THEN
        INSERT INTO orders_knownword (word)
        SELECT DISTINCT one_word FROM came, orders_words_of(came.folded) AS one_word
        WHERE NOT EXISTS (SELECT FROM orders_knownword AS known WHERE known.word = one_word);
    ELSE
        INSERT INTO orders_knownword (word)
        SELECT DISTINCT one_word FROM came JOIN went USING (id), orders_words_of(came.folded) AS one_word
        WHERE came.folded IS DISTINCT FROM went.folded
            AND NOT EXISTS (SELECT FROM orders_knownword AS known WHERE known.word = one_word);
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER words_of_new_lines AFTER INSERT ON orders_orderline REFERENCING NEW TABLE AS came
    FOR EACH STATEMENT EXECUTE FUNCTION orders_keep_words();
CREATE TRIGGER words_of_changed_lines AFTER UPDATE ON orders_orderline
    REFERENCING NEW TABLE AS came OLD TABLE AS went FOR EACH STATEMENT EXECUTE FUNCTION orders_keep_words();
"""
REVERSE_SQL = """
DROP TRIGGER words_of_new_lines ON orders_orderline;
DROP TRIGGER words_of_changed_lines ON orders_orderline;
DROP FUNCTION orders_keep_words();
DROP FUNCTION orders_words_of(text);
"""


def words_of_length(shortest: int) -> set[str]:
    """Words that are at least so long."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT DISTINCT word FROM orders_knownword WHERE length(word) >= %s", [shortest])
        return {row[0] for row in cursor.fetchall()}


def gather_words_anew() -> None:
    """Keep the words of the lines as they are now and no others, say after a customer was forgotten."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM orders_knownword")
        cursor.execute(
            "INSERT INTO orders_knownword (word) "
            "SELECT DISTINCT one_word FROM orders_orderline, orders_words_of(folded) AS one_word"
        )
