"""An acknowledged edit outlives the process that acknowledged it, however that ends."""

from tests.kills import killed


def test_what_was_acknowledged_outlives_a_kill(tmp_path):
    acknowledged, lost = killed(3, 1, tmp_path / "var")
    assert acknowledged >= 3
    assert lost == 0
