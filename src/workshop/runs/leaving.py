"""What the database itself holds of runs: a piece that is changed leaves its run, a locked run stays."""

from __future__ import annotations

__all__ = ["FORWARD_SQL", "REVERSE_SQL"]

#: Whoever changes a piece need not know of runs; the word stands on the line and on the run.
_LEAVES = """
CREATE FUNCTION runs_piece_leaves() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    gone record;
BEGIN
    FOR gone IN
        UPDATE runs_placement AS placement
        SET live = false, outcome = 'left', why = 'It was changed after it was laid.'
        FROM runs_run AS run
        WHERE placement.piece_id = NEW.id AND placement.live AND run.id = placement.run_id
            AND run.standing IN ('proposed', 'open')
        RETURNING run.id, run.code, run.standing
    LOOP
        UPDATE runs_run SET edition = edition + 1 WHERE id = gone.id;
        IF gone.standing = 'open' THEN
            INSERT INTO orders_event (at, what, line_id)
            VALUES (now(), 'Left run ' || gone.code || ', as it was changed after it was laid', NEW.line_id);
        END IF;
    END LOOP;
    RETURN NULL;
END $$;
CREATE TRIGGER piece_leaves_its_run AFTER UPDATE OF stage, revision_id ON orders_piece FOR EACH ROW
    WHEN (OLD.stage = 'ready' AND (
        NEW.stage NOT IN ('ready', 'in run') OR OLD.revision_id IS DISTINCT FROM NEW.revision_id
    ))
    EXECUTE FUNCTION runs_piece_leaves();
"""

_STAYS = """
CREATE FUNCTION runs_locked_run_stays() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    standing text;
BEGIN
    SELECT run.standing INTO standing FROM runs_run AS run
    WHERE run.id = CASE WHEN TG_OP = 'INSERT' THEN NEW.run_id ELSE OLD.run_id END;
    IF standing IN ('locked', 'made') THEN
        IF TG_OP = 'UPDATE' AND (
            NEW.run_id, NEW.piece_id, NEW.revision_id, NEW.shape_id, NEW.key, NEW.x_mm, NEW.y_mm, NEW.z_mm,
            NEW.turn_deg
        ) = (
            OLD.run_id, OLD.piece_id, OLD.revision_id, OLD.shape_id, OLD.key, OLD.x_mm, OLD.y_mm, OLD.z_mm,
            OLD.turn_deg
        ) THEN
            RETURN NEW;
        END IF;
        RAISE EXCEPTION 'a run that is % stays as it is', standing
            USING ERRCODE = 'check_violation', CONSTRAINT = 'locked_run_stays';
    END IF;
    RETURN CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END;
END $$;
CREATE TRIGGER locked_run_stays BEFORE INSERT OR UPDATE OR DELETE ON runs_placement
    FOR EACH ROW EXECUTE FUNCTION runs_locked_run_stays();
"""

FORWARD_SQL = _LEAVES + _STAYS
REVERSE_SQL = """
DROP TRIGGER locked_run_stays ON runs_placement;
DROP TRIGGER piece_leaves_its_run ON orders_piece;
DROP FUNCTION runs_locked_run_stays(), runs_piece_leaves();
"""
