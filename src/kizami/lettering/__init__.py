"""Setting wording as outlines in unrolled millimetres: typefaces, shaping, facts, fitting."""
