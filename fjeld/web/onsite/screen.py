"""Site: what is to be done next, what to buy, what to cut from which coil, and the pieces tagged by their
ends.
"""

from __future__ import annotations

from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.handles import HOUSE
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape, group, rect, text
from fjeld.propose.buying import CableCuts, Piece, cut_lists
from fjeld.quantities import finite_number, format_length
from fjeld.web.http.actions import action
from fjeld.web.http.search import Search, await_all, forget_stopped, search
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Action, Waypoint
from fjeld.web.onsite.panels import Dock, Workings
from fjeld.web.places.planned import stands_of


@action
def _price(view: View, part: str, value: str = "") -> Edit:
    """The job's own price of a part, in the list's own money; emptied, the list's holds again."""
    typed = value.replace("−", "-")
    if not any(m.part == part for m in view.plan.materials):
        raise EditRefused("that part is no longer on the list")
    kept = {p: c for p, c in view.drawing.house.prices.items() if p != part}
    if typed:
        money = finite_number(typed.replace(",", "") if "." in typed else typed)
        if money is None or money < 0:
            raise EditRefused(f"“{typed[:20]}” is no price")
        kept[part] = round(money * 100)
    return Revise(HOUSE, {"prices": kept}, f"Set the price of {part.replace(':', ' ')}")


ACTIONS: dict[str, Action] = {"price": _price}


def _searched(view: View) -> Search[tuple[CableCuts, ...]]:
    """The search for the cheapest cuts, given its moment."""
    if view.params.get("again"):
        forget_stopped(view.drawing, "cuts")
    found = search(view.job.pk, view.drawing, "cuts", lambda heed: tuple(cut_lists(view.plan, heed=heed)))
    await_all([found])
    return found


def cuts_of(view: View) -> tuple[CableCuts, ...]:
    """The cheapest cuts; until they are found, each piece from the first coil that holds it."""
    return _searched(view).found or tuple(cut_lists(view.plan, search=False))


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Site has lists where the others have the floor; its drawing is the cut bars."""
    return {"f-cuts": _bars(view, floor.size.width)}


def _bars(view: View, width: float) -> Shape:
    """Each coil as a bar, the pieces in the order of cutting, what is left hatched."""
    parts: list[Shape | None] = []
    y = 34.0
    longest = max((c.length for kind in cuts_of(view) if kind.plan for c in kind.plan.coils), default=1.0)
    scale = (width - 40) / longest
    unit = view.plan.practice.catalogue.cable_unit
    for kind in cuts_of(view):
        if kind.plan is None:
            parts.append(text(20, y, f"{kind.kind}: {kind.problem}", "label danger-text", "start"))
            y += 30
            continue
        names = list(kind.pieces)
        for coil in kind.plan.coils:
            parts.append(text(20, y, f"{kind.kind} · coil of {coil.length:g} {unit}", "handle", "start"))
            x = 20.0
            for sold in coil.pieces:
                piece = next(p for p in names if abs(p.sold - sold) < 1e-6)
                names.remove(piece)
                w = sold * scale
                parts.append(rect(x, y + 8, w, 34, "cut-piece"))
                if w > 34:
                    parts.append(text(x + w / 2, y + 23, piece.run, "label"))
                    parts.append(
                        text(
                            x + w / 2,
                            y + 37,
                            _piece_words(piece, unit, w),
                            "label muted",
                        )
                    )
                x += w
            if coil.left > 0.01:
                parts.append(rect(x, y + 8, coil.left * scale, 34, "cut-left"))
                if coil.left * scale > 76:
                    parts.append(
                        text(x + coil.left * scale / 2, y + 30, f"{coil.left:.4g} {unit} over", "label")
                    )
            y += 62
    if not parts:
        parts.append(text(width / 2, 120, "No cable to cut yet: lay out boxes and join them first.", "label"))
    return group("f-cuts", *parts)


def _piece_words(piece: Piece, unit: str, width: float) -> str:
    """A piece's length as its bar has room for."""
    if unit == "ft" and width > 64:
        return format_length(piece.length)
    return f"{piece.sold:g} {unit}" if width > 44 else f"{piece.sold:g}"


def dock(view: View) -> Dock:
    """The pieces by kind, each with its ends for the tag."""
    state = _searched(view).state
    return Dock(
        cuts=cuts_of(view),
        searching=state == "running",
        stopped=state == "stopped",
        unit=view.drawing.house.unit,
    )


def workings(view: View) -> Workings:
    """The next step of the book, and the materials with their prices."""
    found = [m for m in view.plan.materials if not m.part.startswith("cable:")]
    cable = [m for m in view.plan.materials if m.part.startswith("cable:")]
    coils = sum(k.plan.price for k in cuts_of(view) if k.plan)
    book = stands_of(view.job, view.drawing)
    now = next((s.task for s in book if not s.done and not s.wants), None)
    return Workings(
        next_step=now.words if now else "",
        where=now.where if now else "",
        caution=now.caution if now else "",
        done=sum(s.done for s in book),
        steps=len(book),
        materials=found,
        cables=cable,
        coils=coils,
        total=coils + sum(m.total_cents for m in found),
    )


SITE = Waypoint(
    name="site",
    title="Site",
    layers=layers,
    dock=dock,
    workings=workings,
    actions=ACTIONS,
    searches=True,
    floor=False,
    folder="onsite",
)
