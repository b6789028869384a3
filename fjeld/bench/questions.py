"""Every question that may be asked by itself, by its name: one registry for the pages of the bench, the
command line and the questions that go with an errand.

A question is a row of :data:`ANSWERS`, which says what is asked and what answers it, and a table of
``questions.toml``, which says its title, its group and the words of its fields. Some are asked as JSON alone,
or in another form than on their page: :data:`COMMANDS`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cache
from importlib import resources
from typing import Any, get_args

import msgspec

from fjeld.bench import commands, open_framing
from fjeld.bench.plain import plain
from fjeld.concealed import between
from fjeld.concealed.routes import ON_CEILINGS, ON_WALLS
from fjeld.drawing.building import RoomUse
from fjeld.judge import devices, fits, fittings, outdoors, spot, ways, wires, work
from fjeld.judge import fill as filling
from fjeld.judge import terminals as landings
from fjeld.judge import water as by_water
from fjeld.judge.answer import Answer
from fjeld.practice import Practice
from fjeld.practice.finished import minutes
from fjeld.practice.finished.sources import sources
from fjeld.propose import cuts

Choice = tuple[str, str]


class Field(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One field of a question: the words beside it, an ``example`` of what is typed, and the ``options`` that
    it has, or the list that it is ``chosen_from``. One that is ``told_by`` a unit is of use where boxes are
    told by that; one of ``lines`` takes several.
    """

    label: str
    example: str = ""
    options: tuple[Choice, ...] = ()
    chosen_from: str = ""
    told_by: str = ""
    lines: bool = False

    def choices(self, practice: Practice) -> tuple[Choice, ...]:
        """What can be chosen, with its words; nothing where it is typed."""
        return CHOSEN_FROM[self.chosen_from](practice) if self.chosen_from else self.options

    def wanted(self, practice: Practice) -> bool:
        """Whether it is of use under a practice."""
        return self.told_by in ("", practice.catalogue.box_unit)


class Told(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a person reads of a question: its title, its group, and its fields in their order."""

    title: str
    group: str
    fields: dict[str, Field]


class Question(msgspec.Struct, frozen=True):
    """A question: what a person reads of it, the struct that is asked, and its answer under a practice."""

    name: str
    told: Told
    asked: type[msgspec.Struct]
    answer: Callable[[Any, Practice], Answer]

    @property
    def title(self) -> str:
        """Its title in a person's words."""
        return self.told.title

    @property
    def fields(self) -> Mapping[str, Field]:
        """Its fields in the order in which they are asked."""
        return self.told.fields

    def ask(self, asked: Any, practice: Practice) -> Answer:
        """Its answer; raises :class:`NotAsked` where it cannot be answered as it is asked."""
        return self.answer(plain(asked), practice)


class Command(msgspec.Struct, frozen=True):
    """A question as the command line alone has it: what it tells, what is asked, and what answers it in
    values of JSON.
    """

    words: str
    asked: type[msgspec.Struct]
    answer: Callable[[Any, Practice], Any]


def _uses(blank: bool) -> tuple[Choice, ...]:
    return (*((("", "not known"),) if blank else ()), *((use, use) for use in get_args(RoomUse)))


#: Lists that hang on the practice, or are as long as the data say.
CHOSEN_FROM: dict[str, Callable[[Practice], tuple[Choice, ...]]] = {
    "sizes": lambda p: (("", "no, or it has a stamp"), *((s, s) for s in p.catalogue.unstamped)),
    "rooms": lambda p: _uses(False),
    "rooms or none": lambda p: _uses(True),
    "boxes": lambda p: tuple((b.id, b.name) for b in p.catalogue.old_work),
    "circuits": lambda p: (("", "not known"), *((c, c) for c in sources().local(p).circuits)),
    "compounds": lambda p: tuple((c, c) for c in minutes().coats if c not in ("primer", "paint")),
    "gauges": lambda p: tuple((g.id, g.id) for g in p.catalogue.gauges),
    "lies": lambda p: (("", "not told"), *{**ON_WALLS, **ON_CEILINGS, **ON_WALLS}.items()),
}


@cache
def _told() -> dict[str, Told]:
    data = resources.files(__package__).joinpath("questions.toml").read_bytes()
    return msgspec.toml.decode(data, type=dict[str, Told])


#: What is asked, and what answers it.
ANSWERS: dict[str, tuple[type[msgspec.Struct], Callable[[Any, Practice], Answer]]] = {
    "fits": (fits.FitsAsked, fits.fits),
    "load": (work.LoadAsked, work.load_left),
    "ground": (wires.GroundAsked, wires.ground),
    "pairs": (work.PairsAsked, lambda asked, practice: work.pairs(asked)),
    "short": (wires.ShortAsked, wires.short),
    "splice": (wires.SpliceAsked, wires.splice),
    "reach": (wires.ReachAsked, wires.reach),
    "spot": (spot.SpotAsked, spot.spot),
    "height": (spot.HeightAsked, spot.stands),
    "void": (spot.VoidAsked, spot.void),
    "cutout": (wires.CutoutAsked, wires.cutout),
    "masonry": (ways.MasonryAsked, ways.masonry),
    "replace": (devices.ReplaceAsked, devices.replaced),
    "terminals": (landings.TerminalsAsked, landings.terminals),
    "extends": (devices.ExtendsAsked, devices.extends),
    "hangs": (devices.HangsAsked, devices.hangs),
    "fan": (fittings.FanAsked, fittings.fan),
    "downrod": (fittings.DownrodAsked, fittings.downrod),
    "dimmer": (devices.DimmerAsked, devices.dimmer),
    "link": (devices.LinkAsked, devices.link),
    "outdoors": (outdoors.OutdoorsAsked, outdoors.outdoors),
    "water": (by_water.WaterAsked, by_water.water),
    "conduit": (devices.ConduitAsked, devices.conduit),
    "shaft": (fittings.ShaftAsked, fittings.shaft),
    "ways": (between.WaysAsked, between.ways),
    "transfer": (ways.TransferAsked, ways.transfer),
    "sounding": (ways.SoundingAsked, ways.sounding),
    "eave": (ways.EaveAsked, ways.eave),
    "wood": (ways.WoodAsked, ways.wood),
    "pull": (ways.PullAsked, ways.pull),
    "time": (work.TimeAsked, lambda asked, practice: work.time(asked)),
    "patch": (work.PatchAsked, work.patch),
    "outlets": (open_framing.OutletsAsked, open_framing.outlets),
    "rows": (open_framing.RowsAsked, open_framing.rows),
    "cord": (open_framing.CordAsked, open_framing.cord),
    "drop": (open_framing.DropAsked, open_framing.volts),
}
QUESTIONS: dict[str, Question] = {
    name: Question(name, told, *ANSWERS[name]) for name, told in _told().items()
}
#: In the order of the work.
GROUPS: dict[str, tuple[Question, ...]] = {
    group: tuple(q for q in QUESTIONS.values() if q.told.group == group)
    for group in dict.fromkeys(q.told.group for q in QUESTIONS.values())
}
COMMANDS: dict[str, Command] = {
    "fill": Command("volume that a box's contents need", filling.Contents, commands.fill),
    "spacing": Command(
        "wall spaces of a room and the fewest outlets", commands.SpacingAsked, commands.spacing
    ),
    "rows": Command("positions of rows of lights", commands.GridAsked, commands.grid),
    "supports": Command("staples on a stretch of cable", commands.SupportsAsked, commands.supports),
    "drop": Command("volt drop along a circuit", commands.DropsAsked, commands.drops),
    "cuts": Command(
        "pieces from coils at least cost", cuts.CutRequest, lambda asked, practice: cuts.plan_cuts(asked)
    ),
}
