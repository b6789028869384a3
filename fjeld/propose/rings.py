"""A circuit's cables closed to a ring, and opened again."""

from __future__ import annotations

from fjeld.derive.plan import Plan
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.handles import Fresh, Handle, order
from fjeld.drawing.model import Cable


def close(plan: Plan, circuit: Handle, mint: Fresh) -> Edit | None:
    """Back to the source from the box farthest along the cables; what hangs off that way are spurs. None without a box."""
    where = plan.circuits[circuit].tree
    ends = [edge.down for edge in where.edges if len(where.beyond[edge.cable]) == 1]
    if not ends:
        return None
    last = max(ends, key=lambda box: (where.depth[box], order(box)))
    back = mint.fresh("cable")
    marked = Revise(circuit, {"ring": True})
    if where.loops:
        return marked
    closing = Place({back: Cable(last, where.root, circuit, by="person", state="pinned")}, "")
    return Together((marked, closing), f"Close {circuit} to a ring, back from {last}")


def open_again(plan: Plan, circuit: Handle) -> Edit:
    """No ring any more: of its two cables at the source the one laid last goes."""
    ring = plan.circuits[circuit].tree.ring
    plain = Revise(circuit, {"ring": False}, f"Leave {circuit} open, no ring")
    if ring is None:
        return plain
    last = max(ring.cables[0], ring.cables[-1], key=order)
    return Together((plain, Remove(last)), plain.what)
