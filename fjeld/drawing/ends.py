"""Ends in a box: of a conductor in its cable (``1.BK``), or a terminal of a device (``S.a``).

An end has one name, in which its cable's or its device's own stands before the dot, and it keeps that name as
long as it is there: neither what is struck out beside it nor what is put in after it is ever called so.
Readings, tests and tasks go by these names.
"""

from __future__ import annotations

from typing import NewType

from fjeld.practice.colours import NOT_SEEN, code_of

End = NewType("End", str)

#: What voltage is measured against; it is in every box, and in none.
EARTH = End("earth")
#: Codes of conductors that are grounds, as people write them too.
GROUNDS = frozenset({"G", "E", "CPC", "BARE"})
#: The code of a colour that nobody has seen, or that is none.
UNSEEN = "X"


def end(owner: str, part: str) -> End:
    """The end of a conductor of a cable, or a terminal of a device, by their own names."""
    return End(f"{owner}.{part}")


def owner(of: End) -> str:
    """The cable or the device that an end is of."""
    return of.partition(".")[0]


def part(of: End) -> str:
    """The conductor within its cable, or the terminal of its device."""
    return of.partition(".")[2]


def plain(code: str) -> str:
    """The code of a colour without the number that tells a conductor from others of that colour: ``BK`` of
    ``BK2``.
    """
    return code.rstrip("0123456789")


def is_ground(of: End) -> bool:
    """Whether an end is a ground's: of a conductor by its colour, of a device by its terminal."""
    return part(of) == "g" or plain(part(of)) in GROUNDS


def codes(colours: list[str]) -> list[str]:
    """The names of the conductors of one cable by their colours in words, those of one colour told apart by
    numbers.
    """
    named: list[str] = []
    for colour in colours:
        code = code_of(colour)
        code = UNSEEN if code == NOT_SEEN else code
        same = sum(plain(c) == code for c in named)
        named.append(f"{code}{same + 1}" if same else code)
    return named
