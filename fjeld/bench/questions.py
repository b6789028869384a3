"""The single questions of work in finished rooms, by name: what is asked, and what answers it under a practice."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from fjeld.bench.plain import plain
from fjeld.concealed import between
from fjeld.judge import devices, fits, fittings, outdoors, spot, ways, wires, work
from fjeld.judge import terminals as landings
from fjeld.judge import water as by_water
from fjeld.judge.answer import Answer, NotAsked
from fjeld.practice import Practice, rules
from fjeld.practice.finished import Habits, habits
from fjeld.quantities import Unit

Measured = Callable[[Any, Habits, Unit], Answer]


class Question(msgspec.Struct, frozen=True):
    """A question: its title in a person's words, the struct that is asked, and its answer under a practice."""

    name: str
    title: str
    asked: type[msgspec.Struct]
    answer: Callable[[Any, Practice], Answer]

    def ask(self, asked: Any, practice: Practice) -> Answer:
        """Its answer; raises :class:`NotAsked` where it cannot be answered as it is asked."""
        return self.answer(plain(asked), practice)


def unit_of(practice: Practice) -> Unit:
    """What a bare number is under a practice."""
    return "mm" if practice.metric else "ft-in"


def _measured(answer: Measured) -> Callable[[Any, Practice], Answer]:
    return lambda asked, practice: answer(asked, habits(practice), unit_of(practice))


def _load(asked: work.LoadAsked, practice: Practice) -> Answer:
    return work.load_left(asked, practice.volts, practice[rules.CIRCUIT_LOAD])


def _ground(asked: wires.GroundAsked, practice: Practice) -> Answer:
    gauges = {g.id: g for g in practice.catalogue.gauges}
    if asked.gauge not in gauges:
        raise NotAsked(f"there is no gauge “{asked.gauge}”; there is {', '.join(gauges)}")
    return wires.ground(asked, gauges[asked.gauge].cold)


QUESTIONS: dict[str, Question] = {
    question.name: question
    for question in (
        Question("fits", "Does one more cable fit", fits.FitsAsked, fits.fits),
        Question("spot", "Where a box may be cut in", spot.SpotAsked, _measured(spot.spot)),
        Question("height", "How high its box goes", spot.HeightAsked, _measured(spot.stands)),
        Question("void", "Room above a ceiling", spot.VoidAsked, _measured(spot.void)),
        Question("ways", "Ways between two places", between.WaysAsked, between.ways),
        Question("transfer", "A plate from the other side", ways.TransferAsked, _measured(ways.transfer)),
        Question("sounding", "How far a bay is open", ways.SoundingAsked, _measured(ways.sounding)),
        Question("eave", "Headroom at an eave", ways.EaveAsked, _measured(ways.eave)),
        Question("pull", "What to cut for a pull", ways.PullAsked, _measured(ways.pull)),
        Question("wood", "Members on the way", ways.WoodAsked, _measured(ways.wood)),
        Question("masonry", "A box in masonry", ways.MasonryAsked, _measured(ways.masonry)),
        Question("short", "Wires that are too short", wires.ShortAsked, _measured(wires.short)),
        Question("reach", "Does the old cable reach", wires.ReachAsked, _measured(wires.reach)),
        Question("cutout", "A larger box in place of one", wires.CutoutAsked, _measured(wires.cutout)),
        Question("ground", "Is the ground a ground", wires.GroundAsked, _ground),
        Question("hangs", "Does its box carry it", devices.HangsAsked, devices.hangs),
        Question("link", "Alarms on one link", devices.LinkAsked, devices.link),
        Question("extends", "What an extension sets off", devices.ExtendsAsked, devices.extends),
        Question("replace", "What may stand in its place", devices.ReplaceAsked, devices.replaced),
        Question("fan", "A fan and its controls", fittings.FanAsked, fittings.fan),
        Question("downrod", "Where a fan turns free", fittings.DownrodAsked, fittings.downrod),
        Question("outdoors", "A light or an outlet outside", outdoors.OutdoorsAsked, outdoors.outdoors),
        Question("water", "By a tub, a shower or a basin", by_water.WaterAsked, by_water.water),
        Question("splice", "Wires joined outside a box", wires.SpliceAsked, _measured(wires.splice)),
        Question("shaft", "Heat of a light in a shaft", fittings.ShaftAsked, fittings.shaft),
        Question("terminals", "Each wire of a device replaced", landings.TerminalsAsked, landings.terminals),
        Question("dimmer", "A dimmer and its load", devices.DimmerAsked, devices.dimmer),
        Question("conduit", "Flexible conduit as a ground", devices.ConduitAsked, devices.conduit),
        Question("load", "What a circuit has left", work.LoadAsked, _load),
        Question(
            "patch", "A patch and its waiting", work.PatchAsked, lambda asked, practice: work.patch(asked)
        ),
        Question("time", "How long it takes", work.TimeAsked, lambda asked, practice: work.time(asked)),
        Question(
            "pairs", "Every pair of a dead test", work.PairsAsked, lambda asked, practice: work.pairs(asked)
        ),
    )
}
