"""What must be so of a step of an errand that was let be done: rules that are written here apart from the
program's own.
"""

#: Boxes that nobody may tie in to, whatever else is so.
BAD = ("aluminium", "cracked", "cloth", "knob and tube")
#: Steps that open a box, change it, or give it power: none of them is done of a box that is bad.
WIRES = ("open", "change", "change box", "tie in", "tie in neutral", "tie in ground", "energize", "live")
#: Of two steps that an errand has, the one that must have been done before the other.
BEFORE = (
    ("breaker", "dead"),
    ("dead", "open"),
    ("open", "tie in"),
    ("dead", "tie in"),
    ("dead", "change"),
    ("dead whole", "energize"),
    ("look", "cut"),
    ("energize", "live"),
)
#: Steps for which bare hands touch wires.
TOUCHING = ("open", "tie in", "change", "change box")


def judge(step, condition, there, done):
    """That a step was done of a box which is not bad, and after what must come before it; ``there`` are the
    errand's steps.
    """
    if step in WIRES or step.startswith("change "):
        assert condition not in BAD, (step, condition)
    for before, after in BEFORE:
        if step == after and before in there:
            assert before in done, (before, after)


def judge_dead(step, there, now, tested, doubted, lasts):
    """That wires were touched while a dead test held: ``tested`` when it last was, ``doubted`` when someone
    left, a breaker tripped or something was read live; ``lasts`` s.
    """
    if step in TOUCHING and "dead" in there:
        assert tested is not None, step
        assert now - tested <= lasts + 1e-6, step
        assert not any(at > tested for at in doubted), step
