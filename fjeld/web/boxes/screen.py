"""Boxes: one box opened, its joints in the order of making up, its fill as a column."""

from __future__ import annotations

from fjeld.derive.boxes import Box, Joint
from fjeld.derive.old import taken_for_granted
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.old_box import OldBox
from fjeld.graphics.floor import Floor
from fjeld.graphics.opened import WORDS, fill_column, opened
from fjeld.graphics.shapes import Shape, group, text
from fjeld.practice import Practice, rules
from fjeld.practice.colours import NAMES
from fjeld.practice.devices import device
from fjeld.quantities import format_length, whole_number
from fjeld.web.boxes.panels import BoxRow, Dock, JointStep, Workings
from fjeld.web.http.typed_over import COMMON
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.ui.coverage import coverage

ACTIONS = {**COMMON}


def box_in_hand(view: View) -> Box | None:
    """The selected box, else the first that holds anything."""
    handle = view.plan.home(Handle(view.selected))
    found = view.plan.begun[handle].box if handle in view.plan.begun else view.plan.boxes.get(handle)
    if found and found.ends:
        return found
    filled = [b for b in view.plan.boxes.values() if b.ends]
    return min(filled, key=lambda b: (len(b.devices) == 0, order(b.handle)), default=None)


def step_of(view: View, box: Box) -> int:
    """The joint in hand, from 0; -1 before the first."""
    step = view.params.get("step", "")
    return min(whole_number(step) or 0, len(box.joints)) - 1


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """The box in place of the floor: cables from above, three shelves, the fill column."""
    box = box_in_hand(view)
    width, height = floor.size.width, floor.size.height
    if box is None:
        words = text(
            width / 2, height / 2, "No box holds a conductor yet: join boxes with cables first.", "label"
        )
        return {"f-box": group("f-box", words), "f-fill": group("f-fill")}
    column = 150 if width > 500 else 90 if width > 400 else 62
    return {
        "f-box": opened(box, view.plan.practice, step_of(view, box), width - column, height),
        "f-fill": fill_column(box, width - column, column, height),
    }


def instruction(box: Box, step: int, free: str, practice: Practice) -> str:
    """What to do at a step, in one sentence; ``free`` is how much conductor the rule leaves."""
    if step < 0:
        # What was found there is in already.
        cables = len({c.bundle for c in box.ends if c.a != c.b})
        return (
            f"Bring {cables} cable{'s' if cables > 1 else ''} in; leave at least {free} free beyond the"
            " sheath."
        )
    if step >= len(box.joints):
        return "Fold grounds to the back, then neutrals, hots last, and pull on each once more."
    joint = box.joints[step]
    return tab_words(box, joint) + joint_words(box, joint, practice)


def tab_words(box: Box, joint: Joint) -> str:
    """What goes before the first of two hots lands on the halves of one outlet; empty for any other joint."""
    halves = {d.key for d in box.devices if device(d.kind).tab}
    for landing in joint.landings:
        if landing.device and landing.device in halves and landing.terminal.startswith("brass"):
            hots = [
                j
                for j in box.joints
                if any(n.device == landing.device and n.terminal.startswith("brass") for n in j.landings)
            ]
            if hots[0] is joint:
                at = landing.device.box
                return (
                    f"Break off the tab between the two brass screws of {at}; the silver side keeps its own. "
                )
    return ""


#: What a core that departs from its colour is marked as, by what it carries and the neutral's colour.
_MARKS = {("WH", False): "marked as hot", ("BU", False): "sleeved brown", ("BU", True): "sleeved blue"}


def joint_words(box: Box, joint: Joint, practice: Practice) -> str:
    """A joint as an instruction."""
    conductors = {c.key: c for c in box.ends}

    def end(key: str) -> str:
        conductor = conductors[key]
        is_neutral = conductor.net.role == "neutral"
        mark = f", {_MARKS.get((practice.neutral, is_neutral), 'marked')}," if conductor.marked else ""
        colour = WORDS.get(conductor.colour, NAMES[conductor.colour])
        return f"{practice.bare if colour == 'bare' else colour}{mark} of {conductor.bundle}"

    ends = [end(key) for key in joint.ends]
    tails = [
        f"{n.device.box if n.device else 'box'} {practice.terminal(n.terminal)}"
        for n in joint.landings
        if not n.lead
    ]
    leads = [f"the {practice.terminal(n.terminal)} of {n.device}" for n in joint.landings if n.lead]
    if joint.how == "direct":
        return f"Land {ends[0]} on {tails[0]}: {joint.words}."
    if joint.how == "through":
        return f"Land {' and '.join(ends)} on the two screws of {tails[0]}: {joint.words}."
    if joint.how == "parked":
        what = ends[0] if ends else leads[0] if leads else "the end"
        why = ", ".join(dict.fromkeys((joint.words, joint.reason)))
        return f"Cap {what} and tag it: {why}."
    together = [*ends, *leads, *(f"a tail to {t}" for t in tails)]
    return f"Join {', '.join(together[:-1])} and {together[-1]}: {joint.words}."


def dock(view: View) -> Dock:
    """Every box with its fill, to be opened."""
    rows = []
    boxes = [*view.plan.boxes.values(), *(made.box for made in view.plan.begun.values())]
    for box in sorted(boxes, key=lambda b: order(b.handle)):
        if box.ends:
            share = 100 * box.needed.total / box.kind.volume if box.kind.volume else 0.0
            rows.append(
                BoxRow(
                    box=box,
                    share=min(100.0, share),
                    open=sum(box.handle in f.handles for f in view.here),
                )
            )
    hand = box_in_hand(view)
    return Dock(rows=rows, in_hand=hand.handle if hand else "")


def workings(view: View) -> Workings:
    """The step in hand, its connector, the fill written out, and the box it wants."""
    box = box_in_hand(view)
    if box is None:
        return Workings(box=None)
    step = step_of(view, box)
    catalogue = view.plan.practice.catalogue
    joint = box.joints[step] if 0 <= step < len(box.joints) else None
    practice = view.plan.practice
    return Workings(
        box=box,
        step=step,
        next=step + 2,
        last=len(box.joints),
        instruction=practice.said(
            instruction(
                box,
                step,
                format_length(practice[rules.FREE_CONDUCTOR], view.drawing.house.unit),
                practice,
            )
        ),
        joint=joint,
        connectors=(
            [next(c.name for c in catalogue.connectors if c.id == n) for n in joint.connectors]
            if joint
            else []
        ),
        kinds=[k for k in catalogue.boxes if k.shape == box.kind.shape],
        steps=[
            JointStep(n=n, words=practice.said(joint_words(box, j, practice)))
            for n, j in enumerate(box.joints, 1)
        ],
        two=len(box.circuits) > 1,
        old=view.plan.begun.get(box.handle),
        holds=made.volume if (made := view.plan.begun.get(box.handle)) else box.kind.volume,
        open=_still_open(view, box),
        covered=coverage(view.plan, box.handle),
    )


def _still_open(view: View, box: Box) -> list[str]:
    """What the joints of an old box rest on and no reading has settled, and what would settle its fill."""
    made, item = view.plan.begun.get(box.handle), view.drawing.items.get(box.handle)
    if made is None or not isinstance(item, OldBox):
        return []
    found = [view.plan.circuits[q].circuit.found for q in box.circuits]
    assumed = [words for n in dict.fromkeys(found) for words in taken_for_granted(box.handle, item, n)]
    return [*assumed, *made.open]


BOXES = Waypoint(
    name="boxes", title="Boxes", layers=layers, dock=dock, workings=workings, actions=ACTIONS, floor=False
)
