"""Whatever is typed, amended or brought in is a value or a sentence, never a fault and never without end."""

import pytest

from tests.fuzz import KINDS, LONGEST, run


@pytest.mark.parametrize("kind", KINDS)
def test_no_input_is_a_fault_or_takes_for_ever(kind):
    wrong, longest = run(kind, 60 if kind in ("job files", "words", "amendments") else 250)
    assert not wrong
    assert longest < LONGEST, "a hang, not a matter of this machine's speed"
