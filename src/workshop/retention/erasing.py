"""What is on record may be changed by nobody; one function of the database alone takes words out of it.

It belongs to the owner's role and runs with its rights. It takes the words of lines out of their events,
revisions and findings, and leaves who did what and when, what it weighed and how it was measured.
"""

from __future__ import annotations

__all__ = ["FORWARD_SQL", "REVERSE_SQL"]

FORWARD_SQL = """
CREATE FUNCTION kizami_forget(lines bigint[]) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE orders_event SET what = '(forgotten)' WHERE line_id = ANY (lines);
    UPDATE making_finding SET message = '(forgotten)', hint = ''
        WHERE revision_id IN (SELECT id FROM making_revision WHERE line_id = ANY (lines));
    UPDATE making_revision SET
        wording = '', wording_received = '', second = '', logo = '', logo_file_id = NULL, open_question = '',
        proposal = '', changes = '[]', candidates = '[]', choices = choices - 'second', strip = '',
        fingerprint = '', why = '(forgotten)', worst = NULL,
        facts = jsonb_build_object(
            'findings', '[]'::jsonb, 'steps', '[]'::jsonb, 'files', '{}'::jsonb,
            'volume_mm3', facts -> 'volume_mm3', 'weight_g', facts -> 'weight_g',
            'size_mm', facts -> 'size_mm', 'triangles', 0
        )
        WHERE line_id = ANY (lines);
END $$;
REVOKE ALL ON FUNCTION kizami_forget(bigint[]) FROM PUBLIC;
"""
REVERSE_SQL = "DROP FUNCTION kizami_forget(bigint[])"
