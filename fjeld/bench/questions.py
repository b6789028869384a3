"""Every question that may be asked by itself, by its name: one registry for the pages of the bench, the
command line and the questions that go with an errand.

A question is a row of :data:`ANSWERS`, which says what is asked and what answers it, and a table of
``questions.toml``, which says its title, its group and the words of its fields. Some are asked as JSON alone,
or in another form than on their page: :data:`COMMANDS`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, get_args

import msgspec

from fjeld.bench import commands, open_framing
from fjeld.bench.plain import plain
from fjeld.bench.told import Choice, Field, Told, told
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


def choices_of(field: Field, practice: Practice) -> tuple[Choice, ...]:
    """What can be chosen of a field, with its words; nothing where it is typed."""
    return CHOSEN_FROM[field.chosen_from](practice) if field.chosen_from else field.options


class Command(msgspec.Struct, frozen=True):
    """A question as the command line alone has it: what is asked, and what answers it in values of JSON."""

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
QUESTIONS: dict[str, Question] = {name: Question(name, of, *ANSWERS[name]) for name, of in told().items()}
#: In the order of the work.
GROUPS: dict[str, tuple[Question, ...]] = {
    group: tuple(q for q in QUESTIONS.values() if q.told.group == group)
    for group in dict.fromkeys(q.told.group for q in QUESTIONS.values())
}
COMMANDS: dict[str, Command] = {
    "fill": Command(filling.Contents, commands.fill),
    "spacing": Command(commands.SpacingAsked, commands.spacing),
    "rows": Command(commands.GridAsked, commands.grid),
    "supports": Command(commands.SupportsAsked, commands.supports),
    "drop": Command(commands.DropsAsked, commands.drops),
    "cuts": Command(cuts.CutRequest, lambda asked, practice: cuts.plan_cuts(asked)),
}
