"""What holds of every drawing, over a wide world of them.

``FJELD_WORLDS=2000`` looks at so many.
"""

import os
from collections import Counter
from functools import cache

import pytest

from fjeld.check import RANK, check, open_findings
from fjeld.derive.memo import Memo
from fjeld.derive.plan import derive
from fjeld.drawing.building import Room
from fjeld.drawing.changes import apply, invert
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable
from fjeld.formats import document, jobfile
from fjeld.propose.attach import settle
from fjeld.propose.fixes import fix
from fjeld.prove.proof import prove
from fjeld.quantities import Passes
from tests.houses import assert_balanced
from tests.worlds import holds, world

COUNT = int(os.environ.get("FJELD_WORLDS", "140"))
#: In shares, so that a failure says where it is and the two workers have something each.
SHARES = 8


def mine(share):
    return range(share, COUNT, SHARES)


#: What each drawing holds, noted while it is looked at.
HELD: dict[int, set[str]] = {}


@cache
def kept(seed):
    """A drawing of the first quarter, which more than one test looks at, with its plan and its memo."""
    return worked_out(seed)


def worked_out(seed):
    memo = Memo()
    drawing = world(seed)
    plan = derive(drawing, memo)
    HELD[seed] = holds(drawing, plan)
    return drawing, plan, memo


def held_by(seed):
    planned(seed)
    return HELD[seed]


def planned(seed):
    return kept(seed) if seed < COUNT // 4 else worked_out(seed)


@pytest.mark.parametrize("share", range(SHARES))
def test_what_holds_of_every_drawing(share):
    for seed in mine(share):
        drawing, plan, memo = planned(seed)
        assert document.decode(document.encode(drawing)) == drawing, f"stored and read back, {seed}"
        # A file for people writes a computed length to the millionth of a millimetre.
        out = jobfile.encode(drawing)
        assert jobfile.encode(jobfile.decode(out)) == out, f"out and in again, {seed}"
        fresh = derive(drawing)
        assert (plan.boxes, plan.materials, plan.begun) == (fresh.boxes, fresh.materials, fresh.begun), seed
        # What is found is found once: each looks at the same findings.
        findings, open_ = check(plan, memo), open_findings(plan, memo)
        every_control_is_proven_or_told(plan, memo, findings, open_, seed)
        currents_balance(plan, open_, seed)
        nothing_open_passes(plan, findings, seed)


def every_control_is_proven_or_told(plan, memo, findings, open_, seed):
    proofs = prove(plan, memo)
    told = {
        f.handles[0] for f in findings if f.rule.id == "control-proven" and not isinstance(f.verdict, Passes)
    }
    reasons = {
        "one-side",
        "cable-conductors",
        "shared-neutral",
        "second-leg",
        "circuit-fed",
        "protective-whole",
        "no-loops",
        "control-complete",
        "circuit-load",
        "volt-drop",
        "volt-drop-other",
        "reachable",
    }
    explained = {f.rule.id for f in open_} & reasons
    for control, proof in proofs.items():
        if proof.loads and not proof.proven:
            assert control in told, (seed, control)
            assert explained, (seed, control, proof.reasons)


def currents_balance(plan, open_, seed):
    """In cables of circuits that are as meant: no ring, nothing that trips, nothing over-full."""
    if plan.network is None or {f.rule.id for f in open_} & {
        "one-side",
        "cable-conductors",
        "shared-neutral",
        "protective-whole",
    }:
        return
    assert_balanced(plan, seed, 1, 3e-3)


def nothing_open_passes(plan, findings, seed):
    """What waits for a reading has one, and what was read nowhere passes nowhere."""
    for finding in findings:
        if finding.rule.id.startswith("source-") and isinstance(finding.verdict, Passes):
            old = plan.drawing.items[finding.handles[1]]
            settled = (
                old.breaker_read
                if finding.rule.id == "source-breaker"
                else old.beside is not None or any(lead.read for cable in old.cables for lead in cable.leads)
            )
            assert settled, (seed, finding.words)


@pytest.mark.parametrize("share", range(4))
def test_an_edit_elsewhere_renames_nothing_and_is_taken_back_whole(share):
    for seed in range(share, COUNT // 4, 4):
        drawing, before, memo = planned(seed)
        room = min(drawing.of(Room))
        renamed = Revise(room, {"name": "Another name"})
        changes = settle(drawing, renamed, Mint(drawing.items))
        after = apply(drawing, changes)
        assert apply(after, invert(changes)) == drawing, seed
        now = derive(after, memo)
        assert [c.key for r in before.runs() for c in r.conductors] == [
            c.key for r in now.runs() for c in r.conductors
        ]
        joints = [[j.key for b in plan.boxes.values() for j in b.joints] for plan in (before, now)]
        assert joints[0] == joints[1], seed


def own_things(drawing, edit):
    """What an edit puts, moves or changes itself; not the cables that follow."""
    return {c.handle for c in edit.plan(drawing) if not isinstance(drawing.items.get(c.handle), Cable)}


@pytest.mark.parametrize("share", range(4))
def test_a_fix_mends_its_finding_and_brings_nothing_as_grave_of_its_own(share):
    offered = 0
    for seed in range(share, COUNT // 8, 4):
        drawing, plan, memo = planned(seed)
        before = open_findings(plan, memo)
        fixed = {}
        for finding in before:
            edit = fix(plan, finding, Mint(drawing.items), memo, before)
            if edit is None:
                continue
            # One fix may mend several.
            if repr(edit) not in fixed:
                offered += 1
                done = apply(drawing, settle(drawing, edit, Mint(drawing.items)))
                fixed[repr(edit)] = open_findings(derive(done, memo), memo)
            after = fixed[repr(edit)]
            assert (finding.key, finding.words) not in {(f.key, f.words) for f in after}, (
                seed,
                finding.words,
            )
            for severity in ("danger", "breach"):
                if RANK[severity] >= RANK[finding.severity]:
                    continue
                old, new = ([f for f in found if f.severity == severity] for found in (before, after))
                # What was wrong before may have another name.
                assert len(new) <= len(old), (seed, finding.words, [f.words for f in new if f not in old])
            known, things = {f.key for f in before}, own_things(drawing, edit)
            own = [
                f
                for f in after
                if f.key not in known and f.severity in ("danger", "breach") and things & {*f.handles}
            ]
            assert all(RANK[f.severity] > RANK[finding.severity] for f in own), (
                seed,
                finding.words,
                [f.words for f in own],
            )
    assert offered > COUNT // 32, "a fix that is never offered mends nothing"


def test_the_world_is_wide():
    seen = Counter(name for seed in range(min(COUNT, 200)) for name in HELD.get(seed) or held_by(seed))
    wanted = {
        "na",
        "gb",
        "1 rooms",
        "3 rooms",
        "a yoke shared",
        "two circuits in a box",
        "second panel",
        "old box",
        "two legs",
        "load side",
        "ring",
        "divided",
        "within",
        "closed ceiling",
        "not measured",
        "as it stands",
        "own gauge",
        "held up",
        "amended",
        "let rest",
        "dimmer",
        "three-way dimmer",
        "timer",
        "sensor",
        "light with chain",
        "split outlet",
        "protective outlet",
        "four-way switch",
        "alarm",
        "fan",
    }
    assert wanted <= {name for name, count in seen.items() if count >= 2}, wanted - set(seen)
