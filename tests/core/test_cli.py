"""The command line, as a person runs it: outputs, exit codes, one line for what cannot be read."""

import io
import json
import os
import subprocess
import sys

import pytest

from fjeld import __version__
from fjeld.cli import main
from fjeld.demo import job_file
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Revise
from fjeld.formats.jobfile import encode
from fjeld.practice import load


@pytest.fixture
def demo(tmp_path):
    file = tmp_path / "boot-room.json"
    file.write_bytes(job_file("boot-room"))
    return str(file)


def ask(command, question, capsys, tmp_path):
    file = tmp_path / "question.json"
    file.write_text(json.dumps(question))
    code = main([command, str(file)])
    out, err = capsys.readouterr()
    return code, (json.loads(out) if code == 0 else err)


def test_derive_gives_the_whole_plan(demo, capsys, boot_plan):
    assert main(["derive", demo, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert set(found["cables"]) == {r.key for r in boot_plan.runs()}
    for run in boot_plan.runs():
        cable = found["cables"][run.key]
        assert (cable["kind"], cable["insulated"]) == (run.kind.id, run.kind.insulated)
        assert cable["length_mm"] == pytest.approx(boot_plan.cables[run.cable].length, abs=0.01)
    for handle, box in boot_plan.boxes.items():
        assert found["boxes"][handle]["fill"]["total"] == pytest.approx(box.needed.total)
        assert len(found["boxes"][handle]["joints"]) == len(box.joints)


def test_prove_lists_each_control_and_combination(demo, capsys):
    assert main(["prove", demo, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    for control in found["controls"].values():
        assert control["proven"]
        assert len(control["rows"]) == 2 ** len(control["positions"])
        assert {b for row in control["rows"] for b in row["bands"].values()} <= {"lit", "dark"}


def test_check_exits_one_on_a_danger(tmp_path, boot_room, capsys):
    file = tmp_path / "danger.json"
    file.write_bytes(encode(apply(boot_room, Revise("Q1", {"breaker": 30}).plan(boot_room))))
    assert main(["check", str(file)]) == 1
    out = capsys.readouterr().out
    assert "danger" in out
    assert "breaker-gauge:Q1" in out
    assert "check against your printed copy" in out


def test_check_exits_nought_when_only_advice_is_open(demo, capsys):
    code = main(["check", demo])
    out = capsys.readouterr().out
    assert code == int("danger " in out or "breach " in out)
    assert "safe" not in out.lower()
    assert "compliant" not in out.lower()


@pytest.mark.parametrize(("kind", "first"), [("spice", b"* "), ("csv", b"part,"), ("json", b"{")])
def test_exports(demo, kind, first, capsysbinary):
    assert main(["export", demo, "--to", kind]) == 0
    assert capsysbinary.readouterr().out.startswith(first)


@pytest.mark.parametrize("command", ["derive", "check", "prove"])
def test_the_same_drawing_gives_the_same_text_whatever_the_order_of_sets(command, tmp_path):
    file = tmp_path / "tarn-house.json"
    file.write_bytes(job_file("tarn-house"))

    def told(seed):
        ask = [sys.executable, "-m", "fjeld.cli", command, str(file)]
        return subprocess.run(
            ask, env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, check=False
        ).stdout

    assert told("1") == told("2") != b""


def test_a_netlist_of_a_state(demo, capsysbinary, boot_plan):
    up = boot_plan.network.positions[0]
    assert main(["export", demo, "--to", "spice", "--up", str(up), "--off", "Q1"]) == 0
    out = capsysbinary.readouterr().out.decode()
    assert "* open breaker:Q1" in out
    for contact in boot_plan.network.contacts:
        if contact.position == up:
            assert (f"; closed {contact.key}" in out) is (contact.closed_at == 1)
    assert main(["export", demo, "--to", "spice", "--up", "S9:K9"]) != 0
    assert "there is no S9:K9" in capsysbinary.readouterr().err.decode()


def test_schema(capsys):
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Fjeld job file"


def test_fill(capsys, tmp_path):
    question = {
        "conductors": [{"gauge": "12", "count": 12}],
        "grounds": ["12"] * 6,
        "yokes": [{"gauge": "12"}, {"gauge": "12"}],
    }
    code, found = ask("fill", question, capsys, tmp_path)
    assert (code, found["total"]) == (0, 39.375)
    assert sum(line["amount"] for line in found["lines"]) == pytest.approx(39.375)


def test_rows(capsys, tmp_path):
    _, found = ask(
        "rows",
        {"width": "4.2 m", "depth": "3.3 m", "across": 3, "down": 2, "school": "offset", "offset": "750 mm"},
        capsys,
        tmp_path,
    )
    assert found["x_mm"] == pytest.approx([750, 2100, 3450])
    assert found["y_mm"] == pytest.approx([750, 2550])


def test_supports(capsys, tmp_path):
    assert ask("supports", {"length": '120"'}, capsys, tmp_path)[1]["staples"] == 2
    assert ask("supports", {"length": '120"', "cables": 3}, capsys, tmp_path)[1]["staples"] == 4
    assert ask("supports", {"length": '120"', "fished": True}, capsys, tmp_path)[1]["staples"] == 0


def test_drop(capsys, tmp_path):
    _, found = ask("drop", {"stretches": [{"length": "80'", "amps": 8}]}, capsys, tmp_path)
    assert found["total"] == pytest.approx(3.93, abs=0.005)
    assert found["percent"] == pytest.approx(3.3, abs=0.05)


def test_cuts(capsys, tmp_path):
    _, found = ask(
        "cuts", {"pieces": [61, 43, 38], "coils": [{"length": 50}, {"length": 100}]}, capsys, tmp_path
    )
    assert [c["length"] for c in found["coils"]] == [100, 50]


def test_spacing(capsys, tmp_path):
    question = {
        "walls": ["E 14'", "S 11'", "W 14'", "N 11'"],
        "openings": [{"kind": "door", "room": "R1", "wall": 1, "at": "2'", "width": '32"'}],
    }
    _, found = ask("spacing", question, capsys, tmp_path)
    assert found["wall_spaces_mm"] == pytest.approx([(47 * 12 + 4) * 25.4])
    assert found["least"] == [4]
    assert len(found["outlets"]) in (4, 5)


def test_standard_input(monkeypatch, capsys):
    class Stdin:
        buffer = io.BytesIO(b'{"length": "10\'"}')

    monkeypatch.setattr(sys, "stdin", Stdin)
    assert main(["supports", "-"]) == 0
    assert json.loads(capsys.readouterr().out)["staples"] == 2


@pytest.mark.parametrize(
    ("arguments", "content", "place"),
    [
        (["check"], b"{", "not JSON"),
        (["check"], b"  0\nSECTION\n  2\nHEADER\n", "DXF drawing and no job file"),
        (["check"], b"999\nmade by hand\n0\nSECTION", "DXF drawing and no job file"),
        (["check"], b"IESNA:LM-63-2002\n", "photometry of a fitting"),
        (["check"], b"%PDF-1.7", "no job file"),
        (["derive"], b'{"fjeld": 1, "rooms": {"R1": {"name": "x", "walls": ["E x"]}}}', "rooms.R1.walls[0]"),
        (["prove"], b'{"fjeld": 9}', "newer program"),
        (["fill"], b'{"conductors": [{"gauge": "4", "count": 2}]}', "no volume"),
        (["fill"], b'{"conductors": 5}', "conductors"),
        (["rows"], b'{"width": "wide", "depth": "1 m", "across": 1, "down": 1}', "width"),
        (["rows"], b'{"width": "1 m", "depth": "1 m", "across": 99, "down": 1}', "1 to 40"),
        (["cuts"], b'{"pieces": [60], "coils": [{"length": 50}]}', "longer than any coil"),
        (["drop"], b'{"stretches": [{"length": "8\'"}]}', "amps"),
        (["supports"], b'{"length": "10\'", "ends": "box-wall"}', "ends"),
        (["export", "--to", "spice"], b'{"fjeld": 1}', "no panel"),
    ],
)
def test_bad_input_is_one_line_and_exit_two(arguments, content, place, tmp_path, capsys):
    file = tmp_path / "bad.json"
    file.write_bytes(content)
    assert main([arguments[0], str(file), *arguments[1:]]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert place in err
    assert err.count("\n") == 1
    assert "Traceback" not in err


def test_a_missing_file_is_one_line(capsys):
    assert main(["check", "/no/such/file"]) == 2
    assert "No such file" in capsys.readouterr().err


def test_no_finding_claims_more_than_was_checked():
    for rule in load("na").rules.values():
        assert "compliant" not in rule.title.lower()


def test_the_version_is_told(capsys):
    with pytest.raises(SystemExit) as ended:
        main(["--version"])
    assert ended.value.code == 0
    assert capsys.readouterr().out.strip() == f"fjeld {__version__}"
