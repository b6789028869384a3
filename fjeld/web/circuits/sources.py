"""Where a circuit begins, as the Circuits screen asks and tells it."""

from __future__ import annotations

from fjeld.drawing.building import Panel
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, first_panel
from fjeld.drawing.old_box import OldBox
from fjeld.web.http.actions import action
from fjeld.web.http.view import View


@action
def begin_in(view: View, handle: Handle, source: str) -> Edit:
    """Where a circuit begins: a panel, or one of the cables found in an old box (``E1 2``; ``E1`` while that
    is open).
    """
    view.drawing.get(handle, Circuit)
    box, _, number = source.partition(" ")
    begins_at, found = Handle(box), number.strip()[:20]
    item = view.drawing.items.get(begins_at)
    if not isinstance(item, Panel | OldBox):
        raise EditRefused(f"there is no panel or old box {box[:20]}")
    if isinstance(item, Panel):
        first = begins_at == first_panel(view.drawing)
        return Revise(
            handle, {"source": None if first else begins_at, "found": ""}, f"Begin {handle} in {begins_at}"
        )
    where = f"{begins_at}, at its cable {found}" if found else begins_at
    return Revise(handle, {"source": begins_at, "found": found}, f"Begin {handle} in {where}")


def sources(view: View) -> list[tuple[str, str]]:
    """Where a circuit can begin: (value, words)."""
    panel = view.plan.practice.word("panel").capitalize()
    found = [(str(h), f"{panel} {h}") for h in view.drawing.of(Panel)]
    for handle, old in view.drawing.of(OldBox).items():
        what = f"Old {old.holds or 'box'} {handle}"
        found.append((str(handle), f"{what}, which cable is not known"))
        found += [(f"{handle} {c.id}", f"{what}, cable {c.id}") for c in old.cables]
    return found


def begins(view: View) -> str:
    """Where the selected circuit begins, as one of :func:`sources`."""
    item = view.item
    if not isinstance(item, Circuit):
        return ""
    source = item.source or first_panel(view.drawing) or ""
    return f"{source} {item.found}" if item.found else str(source)
