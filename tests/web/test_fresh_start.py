"""A server that has just started answers eight first requests at once, however often it is started."""

from tests.fresh_starts import first_requests
from tests.often import OFTEN


def test_first_requests_of_fresh_starts_are_all_answered(tmp_path):
    answered, lost, wrong = first_requests(2 if OFTEN == 1 else 5 * OFTEN, tmp_path / "var")
    assert (lost, wrong) == (0, [])
    assert answered >= 16
