"""Where a piece stands, and what the database itself holds of it.

A piece's stage is written on the piece and nowhere else. Where a line stands follows from its pieces: the
database keeps it beside the line, so that a hundred thousand lines can be filtered by it, and refuses
whoever writes it himself. A piece on its way never falls back because somebody kept other words.
"""

from __future__ import annotations

from django.db import models

__all__ = ["FORWARD_SQL", "ON_PAPER", "REVERSE_SQL", "UNDER_WAY", "Stage"]


class Stage(models.TextChoices):
    """Where a piece stands, in the words of the shop."""

    NEW = "new", "new"
    HELD = "held", "held"
    READY = "ready", "ready"
    IN_RUN = "in run", "in run"
    MADE = "made", "made"
    SENT = "sent", "sent"


#: Stages in which a piece may still be changed.
ON_PAPER = (Stage.NEW, Stage.HELD, Stage.READY)
#: Stages in which it is as it is.
UNDER_WAY = (Stage.IN_RUN, Stage.MADE, Stage.SENT)

#: A line stands where the piece stands that needs somebody most: held, new, ready, and then the hindmost.
_DERIVED = """
CREATE FUNCTION orders_stage_of_lines() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    UPDATE orders_orderline AS line
    SET stage = found.stage, under_way = found.under_way
    FROM (
        SELECT line_id,
            (array['held', 'new', 'ready', 'in run', 'made', 'sent'])[
                min(array_position(array['held', 'new', 'ready', 'in run', 'made', 'sent'], stage::text))
            ] AS stage,
            count(*) FILTER (WHERE stage IN ('in run', 'made', 'sent')) AS under_way
        FROM orders_piece
        WHERE line_id IN (SELECT line_id FROM changed)
        GROUP BY line_id
    ) AS found
    WHERE line.id = found.line_id
        AND (line.stage, line.under_way) IS DISTINCT FROM (found.stage, found.under_way);
    RETURN NULL;
END $$;
CREATE TRIGGER pieces_added AFTER INSERT ON orders_piece REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION orders_stage_of_lines();
CREATE TRIGGER pieces_changed AFTER UPDATE ON orders_piece REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION orders_stage_of_lines();
CREATE TRIGGER pieces_gone AFTER DELETE ON orders_piece REFERENCING OLD TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION orders_stage_of_lines();
"""

_WAY = """
CREATE FUNCTION orders_piece_way() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    paper constant text[] := array['new', 'held', 'ready'];
    gone boolean := TG_OP = 'DELETE';
BEGIN
    IF OLD.stage = ANY (paper) THEN
        IF gone THEN RETURN OLD; END IF;
        IF NEW.stage = ANY (paper) OR (OLD.stage = 'ready' AND NEW.stage = 'in run') THEN RETURN NEW; END IF;
    ELSIF NOT gone AND NEW.revision_id = OLD.revision_id AND NEW.line_id = OLD.line_id AND (
        NEW.stage = OLD.stage
        OR (OLD.stage = 'in run' AND NEW.stage IN ('ready', 'made'))
        OR (OLD.stage = 'made' AND NEW.stage = 'sent')
    ) THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION 'a piece that is % can not become %',
        OLD.stage, CASE WHEN gone THEN 'nothing' ELSE NEW.stage || ' with another revision or from there' END
        USING ERRCODE = 'check_violation', CONSTRAINT = 'piece_way';
END $$;
CREATE TRIGGER piece_way BEFORE UPDATE OR DELETE ON orders_piece
    FOR EACH ROW EXECUTE FUNCTION orders_piece_way();
"""

#: Only the trigger above, at a depth of its own, may write what follows from the pieces.
_GUARD = """
CREATE FUNCTION orders_line_stage_is_derived() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF pg_trigger_depth() < 2 THEN
        RAISE EXCEPTION 'where a line stands follows from its pieces'
            USING ERRCODE = 'check_violation', CONSTRAINT = 'line_stage_is_derived';
    END IF;
    RETURN NEW;
END $$;
CREATE TRIGGER line_stage_is_derived BEFORE UPDATE ON orders_orderline FOR EACH ROW
    WHEN (OLD.stage IS DISTINCT FROM NEW.stage OR OLD.under_way IS DISTINCT FROM NEW.under_way)
    EXECUTE FUNCTION orders_line_stage_is_derived();
"""

FORWARD_SQL = _DERIVED + _WAY + _GUARD
REVERSE_SQL = """
DROP TRIGGER line_stage_is_derived ON orders_orderline;
DROP TRIGGER piece_way ON orders_piece;
DROP TRIGGER pieces_added ON orders_piece;
DROP TRIGGER pieces_changed ON orders_piece;
DROP TRIGGER pieces_gone ON orders_piece;
DROP FUNCTION orders_stage_of_lines(), orders_piece_way(), orders_line_stage_is_derived();
"""
