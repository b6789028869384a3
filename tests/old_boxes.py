"""Cables of old boxes as tests write them."""

from fjeld.drawing.ends import codes
from fjeld.drawing.old_box import Lead, OldCable


def found_cable(number, *leads, gauge="", **told):
    """A cable by its number and, of each conductor, its colour and what else is told of it."""
    named = codes([colour for colour, *_ in leads])
    return OldCable(
        str(number), tuple(Lead(code, *lead) for code, lead in zip(named, leads, strict=True)), gauge, **told
    )
