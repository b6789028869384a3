"""What hangs, links, protects and is replaced: decisions that a practice has written down, each with its
basis.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.drawing.building import RoomUse
from fjeld.drawing.old_box import Ahead
from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.protection import ARCS, ASTRAY, arc_fault_by_room, ground_fault_by_room
from fjeld.judge.rooms import use_of
from fjeld.practice import Practice, rules
from fjeld.practice.kinds import KG_PER_LB
from fjeld.quantities import ROUNDING, Length, Line, Working, at_least, at_most


class HangsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is to hang, its weight in ``lb`` or ``kg``, and what its box is marked for, in the same (0 where
    it has no mark); ``listed`` whether the box says that it is for a fan, none where nobody has looked.
    """

    what: Literal["light", "wall light", "fan"] = "light"
    lb: float | None = None
    kg: float | None = None
    marked: float | None = None
    listed: bool | None = None


def hangs(asked: HangsAsked, practice: Practice) -> Answer:
    """Whether a box carries it, or what does."""
    if (asked.lb is None) == (asked.kg is None):
        raise NotAsked("say its weight, in lb or in kg")
    scale = KG_PER_LB if asked.lb is not None else 1.0
    kg = (asked.lb if asked.lb is not None else asked.kg or 0.0) * scale
    mark = None if asked.marked is None else asked.marked * scale
    figures = (Figure("weight, kg", kg, "count"), Figure("weight, lb", kg / KG_PER_LB, "count"))
    if asked.what != "fan":
        on_wall = asked.what == "wall light" and rules.WALL_LIGHT_WEIGHT in practice
        return Answer(
            figures, (_wall_light(kg, practice) if on_wall and not mark else _light(kg, mark, practice),)
        )
    return Answer(figures, (_fan_hangs(asked, kg, mark, practice),))


def _fan_hangs(asked: HangsAsked, kg: float, mark: float | None, practice: Practice) -> Said:
    """Whether a box carries a fan, which moves: by its listing first, then by weight and mark."""
    if rules.FAN_BOX not in practice:
        words = (
            "A hook or a bracket into a joist; a fan moves, so the maker's figure counts several times over"
        )
        return Said("ask", words)
    usual, most = practice[rules.FAN_BOX]
    basis = practice.rule(rules.FAN_BOX).shown_basis
    if not at_most(kg, most, ROUNDING):
        return Said("fails", "More than any box carries: it hangs from the structure, on its own", basis)
    if asked.listed is False or (mark == 0 and not asked.listed):
        words = "A box that is not listed for a fan: never from it, whatever weight it is marked for"
        return Said("fails", words, basis)
    if mark is not None and mark > 0 and not at_most(kg, mark, ROUNDING):
        return Said("fails", "Heavier than its box is marked for", basis)
    if asked.listed is None:
        words = (
            "Whether its box is listed for a fan: look for those words inside it. A weight alone does not"
            " say it"
        )
        return Said("ask", words, basis)
    if not at_most(kg, usual, ROUNDING) and not mark:
        return Said(
            "ask", "Heavier than a fan box carries unless it is marked for more: read its mark", basis
        )
    return Said(
        "passes", "Its box carries it, by its listing for a fan" + (" and its mark" if mark else ""), basis
    )


def _wall_light(kg: float, practice: Practice) -> Said:
    basis = practice.rule(rules.WALL_LIGHT_WEIGHT).shown_basis
    if at_most(kg, practice[rules.WALL_LIGHT_WEIGHT], ROUNDING):
        return Said("passes", "A device box carries it, by two No. 6 screws or larger", basis)
    return _light(kg, None, practice)


def _light(kg: float, mark: float | None, practice: Practice) -> Said:
    if rules.FIXTURE_WEIGHT not in practice:
        words = "Above a few kilograms a hook or a plate into a joist carries it, by the maker's sheet"
        return Said("ask", words)
    basis = practice.rule(rules.FIXTURE_WEIGHT).shown_basis
    if at_most(kg, practice[rules.FIXTURE_WEIGHT], ROUNDING):
        return Said("passes", "A box that is fixed to framing carries it", basis)
    if mark and at_most(kg, mark, ROUNDING):
        return Said("passes", "Its box is marked for that weight", basis)
    return Said("fails", "It hangs from the structure, or from a box marked for its weight", basis)


class LinkAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Alarms on one link, by what they sense, those to be added among them."""

    smoke: int = 0
    heat: int = 0
    gas: int = 0


def link(asked: LinkAsked, practice: Practice) -> Answer:
    """Whether one wire may link them all."""
    if min(asked.smoke, asked.heat, asked.gas) < 0:
        raise NotAsked("there are none, or some")
    every = Working(
        "Alarms",
        "alarms",
        (
            Line(1.0, asked.smoke, "smoke"),
            Line(1.0, asked.heat, "heat"),
            Line(1.0, asked.gas, "carbon monoxide"),
        ),
    )
    said = []
    most = practice[rules.ALARM_LINKED]
    if asked.smoke > most:
        said.append(
            Said(
                "fails",
                f"{asked.smoke} smoke alarms on one link, where {most} may be",
                practice.rule(rules.ALARM_LINKED).shown_basis,
            )
        )
    if rules.ALARM_LINKED_ALL in practice and every.total > practice[rules.ALARM_LINKED_ALL]:
        words = (
            f"{every.total:g} alarms of all kinds on one link, where {practice[rules.ALARM_LINKED_ALL]}"
            " may be"
        )
        said.append(Said("fails", words, practice.rule(rules.ALARM_LINKED_ALL).shown_basis))
    if not said:
        said.append(
            Said("passes", "One link takes them; two makers' families on one wire can destroy each other")
        )
    return Answer((Figure("alarms", every.total, "count"),), tuple(said), (every,))


class ExtendsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A circuit taken further: the use of the room, how much new cable, what is new at its end, and what
    protects it already.
    """

    room: str
    way: Length
    new: Literal["", "outlet", "switch", "light"] = ""
    near_water: bool = False
    ahead: Ahead = ""


#: How it is said that a protection is there.
THERE = "is ahead of it already"


def extends(asked: ExtendsAsked, practice: Practice) -> Answer:
    """What it sets off: protection, and what a new outlet must be."""
    said, room = [], use_of(asked.room)
    if rules.ARC_FAULT in practice:
        short = at_most(asked.way.mm, practice[rules.ARC_FAULT_SHORT]) and not asked.new
        basis = practice.rule(rules.ARC_FAULT).shown_basis
        wanted = arc_fault_by_room(room, practice) == "asked"
        if wanted and not short and asked.ahead in ARCS:
            said.append(Said("passes", f"Arc-fault protection {THERE}", basis))
        elif wanted and not short:
            said.append(
                Said(
                    "needs",
                    "Arc-fault protection of that circuit: a breaker of the panel's family, or a device at"
                    " the first outlet",
                    basis,
                )
            )
        elif wanted:
            said.append(
                Said(
                    "passes",
                    "No arc-fault protection is set off by so short a piece without a new outlet or device",
                    basis,
                )
            )
    if asked.new == "outlet":
        said += _new_outlet(asked, practice)
    if rules.RESIDUAL in practice:
        said += _residual(asked, room, practice)
    if not said:
        said.append(Said("passes", "Nothing further is set off by the rules that were looked at"))
    return Answer((Figure("new cable", asked.way.mm),), tuple(said))


def _residual(asked: ExtendsAsked, room: RoomUse, practice: Practice) -> list[Said]:
    basis, milli = practice.rule(rules.RESIDUAL).shown_basis, f"{practice[rules.RESIDUAL] * 1000:g} mA"
    found = []
    if asked.ahead in ASTRAY:
        found.append(Said("passes", f"A {milli} residual-current device {THERE}", basis))
    else:
        words = (
            f"A {milli} residual-current device for what is new, and for its cable where that is hidden in a"
            " wall"
        )
        found.append(Said("needs", words, basis))
        found.append(
            Said(
                "ask",
                "With none in the board: a fused unit with one at its start protects what follows; the cable"
                " up to it, where it is hidden, still wants one ahead",
                "BS 7671 411.3.3, 522.6",
            )
        )
    if room == "bath":
        found.append(
            Said("ask", "In a bathroom it may have to be notified before it is begun", "Part P; ask")
        )
    return found


def _new_outlet(asked: ExtendsAsked, practice: Practice) -> list[Said]:
    if rules.GROUND_FAULT not in practice:
        return []
    found, room = [Said("advice", "A new outlet is tamper-resistant")], use_of(asked.room)
    if room == "outdoors":
        found.append(
            Said("advice", "Outdoors it is weather-resistant, under a cover that closes over a plug")
        )
    wanted = ground_fault_by_room(room, practice) or asked.near_water
    if wanted and asked.ahead in ASTRAY:
        found.append(
            Said("passes", f"Ground-fault protection {THERE}", practice.rule(rules.GROUND_FAULT).shown_basis)
        )
    elif wanted:
        found.append(
            Said(
                "needs",
                "Ground-fault protection, at the breaker or at a device that can be reached",
                practice.rule(rules.GROUND_FAULT).shown_basis,
            )
        )
    return found


class DimmerAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A dimmer's least and most load, W, the load that it gets, what that is, and how many of its sides lose
    their fins.
    """

    load: float
    most: float
    least: float = 0.0
    of: Literal["lamps", "fan", "motor", "outlet"] = "lamps"
    sides: int = 0


def dimmer(asked: DimmerAsked, practice: Practice) -> Answer:
    """Whether it may work that load."""
    if asked.of != "lamps":
        words = {
            "outlet": "An outlet is never behind a dimmer",
            "fan": "A fan wants a control for fans: a dimmer hums, and burns",
            "motor": "A motor is never behind a dimmer",
        }
        return Answer((), (Said("danger", words[asked.of]),))
    fins = (1.0, *practice[rules.DIMMER_FINS])
    if not 0 <= asked.sides < len(fins):
        raise NotAsked("fins are broken off at none of its sides, at one, or at both")
    most = asked.most * fins[asked.sides]
    figures = (Figure("at most, W", most, "count"), Figure("at least, W", asked.least, "count"))
    if not at_most(asked.load, most, ROUNDING):
        said = Said("fails", f"{asked.load:g} W is more than the {most:g} W that it carries like that")
    elif not at_least(asked.load, asked.least, ROUNDING):
        said = Said(
            "fails",
            f"{asked.load:g} W is less than the {asked.least:g} W that it needs: lamps flicker or glow",
        )
    else:
        said = Said("passes", f"{asked.load:g} W of {most:g} W")
    return Answer(figures, (said,))


class ConduitAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A piece of flexible metal conduit of half an inch as the ground of what it feeds; its ``wires`` of a
    ``gauge``, the degrees of its ``bends``.
    """

    way: Length
    amps: float
    wires: int = 0
    gauge: Literal["14", "12"] = "14"
    bends: float = 0.0


def conduit(asked: ConduitAsked, practice: Practice) -> Answer:
    """Whether the conduit itself may be the ground."""
    if rules.CONDUIT_GROUND not in practice:
        return Answer(
            (), (Said("fails", "Flexible conduit is no protective conductor: it carries one of its own"),)
        )
    longest, amps = practice[rules.CONDUIT_GROUND]
    basis = practice.rule(rules.CONDUIT_GROUND).shown_basis
    fits = at_most(asked.way.mm, longest) and asked.amps <= amps
    if fits:
        said = Said("passes", "With listed fittings it grounds what it feeds by itself", basis)
    else:
        said = Said("fails", "It is no ground by itself: a ground wire goes through it", basis)
    return Answer((Figure("piece", asked.way.mm),), (said, *_in_conduit(asked, practice)))


def _in_conduit(asked: ConduitAsked, practice: Practice) -> list[Said]:
    """What goes through it, how it bends, and how it is cut and held."""
    found, bends = [], practice[rules.CONDUIT_BENDS]
    if asked.wires:
        most = practice[rules.CONDUIT_WIRES][asked.gauge]
        fits = asked.wires <= most
        found.append(
            Said(
                "passes" if fits else "fails",
                f"{asked.wires} wires of {asked.gauge} where half an inch takes {most}",
            )
        )
    if asked.bends > bends:
        found.append(
            Said("fails", f"It turns {asked.bends:g}° between its boxes, where {bends:g}° is the most")
        )
    found.append(
        Said(
            "needs",
            "Its ends are cut square and trimmed, in listed connectors, a bushing in them; it is held within"
            " 12 inches of each box and every 4 1/2 feet",
            "NEC 2023 348.28, 348.30",
        )
    )
    return found


class ReplaceAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A device that is replaced: which, whether a ground is there, where, what the conductors are, and
    whether a ``protective`` one comes.
    """

    what: Literal["outlet", "switch", "light"]
    room: str = "other"
    ground: Literal["yes", "no", "not known"] = "not known"
    aluminium: bool = False
    near_water: bool = False
    protective: bool = False
    ahead: Ahead = ""


def replaced(asked: ReplaceAsked, practice: Practice) -> Answer:
    """What may stand in its place."""
    if asked.aluminium:
        return Answer(
            (),
            (
                Said(
                    "danger", "Aluminium: stop and call. A device and a joint made for it, by someone trained"
                ),
            ),
        )
    if rules.GROUND_FAULT not in practice:
        return Answer((), _british(asked))
    said, room = [], use_of(asked.room)
    if asked.ground == "not known":
        said.append(Said("ask", "Whether the ground is a ground: look for it, then read it"))
    if asked.what == "outlet":
        if asked.ground == "no":
            said.append(_without_ground(asked.protective))
        if ground_fault_by_room(room, practice) or asked.near_water:
            said.append(
                Said(
                    "passes" if asked.protective or asked.ahead in ASTRAY else "needs",
                    "Ground-fault protection, as that place asks now",
                    practice.rule(rules.GROUND_FAULT).shown_basis,
                )
            )
        if arc_fault_by_room(room, practice) == "asked":
            said.append(
                Said(
                    "passes" if asked.ahead in ARCS else "needs",
                    "Arc-fault protection, as that place asks now",
                    practice.rule(rules.ARC_FAULT).shown_basis,
                )
            )
        said.append(Said("advice", "It is tamper-resistant"))
        if room == "outdoors":
            said.append(
                Said(
                    "needs",
                    "It is weather-resistant, under a cover that closes over a plug",
                    "NEC 2023 406.4(D)(6), 406.9(B)",
                )
            )
    elif asked.ground == "no":
        words = {
            "switch": "A plate and screws that are not metal, or ground-fault protection ahead of it",
            "light": (
                "A fitting that is insulated throughout, ground-fault protection, or a ground that is run"
                " to it"
            ),
        }
        said.append(Said("needs", words[asked.what]))
    if not said:
        said.append(
            Said("passes", "The same terminals, by what each wire was on: tag it before it is taken off")
        )
    return Answer((), tuple(said))


def _without_ground(protective: bool) -> Said:
    if protective:
        return Said(
            "needs",
            "Marked “no equipment ground”, and so is each outlet behind it; no wire between their grounds",
            "NEC 2023 406.4(D)(2)",
        )
    return Said(
        "fails",
        "No three-slot outlet by itself: a ground-fault device marked “no equipment ground”, an outlet behind"
        " one marked so too, or two slots again; no wire between their grounds",
    )


def _british(asked: ReplaceAsked) -> tuple[Said, ...]:
    if asked.ground == "no":
        words = {
            "light": "A fitting of class II only, and a notice at the consumer unit",
            "switch": "An insulated accessory with insulated screws",
            "outlet": "No socket on a circuit without an earth",
        }
        return (Said("fails" if asked.what == "outlet" else "needs", words[asked.what]),)
    found = [] if asked.ground == "yes" else [Said("ask", "Whether the earth is there and continuous")]
    if asked.what == "outlet":
        found.append(Said("ask", "A replaced socket: whether additional protection is asked for it"))
    return tuple(found) or (Said("passes", "The same terminals, by what each wire was on"),)
