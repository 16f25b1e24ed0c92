"""Random pieces over all blanks, treatments, typefaces and settings; scripts/fuzz-pieces.py makes more."""

from __future__ import annotations

import pytest

from tests.kizami.fuzzing import complaint, random_inputs


@pytest.mark.parametrize("first", (*range(0, 150, 10), 1070))
def test_nothing_escapes_and_what_is_ready_is_sound(first: int) -> None:
    found = [
        (seed, inputs) for seed in range(first, first + 10) if (inputs := random_inputs(seed)) is not None
    ]
    assert found
    assert [(seed, said) for seed, inputs in found if (said := complaint(inputs))] == []
