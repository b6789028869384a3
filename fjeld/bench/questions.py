"""The single questions of work in finished rooms, by name: what is asked, and what answers it under a
practice.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from fjeld.bench.plain import plain
from fjeld.concealed import between
from fjeld.judge import devices, fits, fittings, outdoors, spot, ways, wires, work
from fjeld.judge import terminals as landings
from fjeld.judge import water as by_water
from fjeld.judge.answer import Answer
from fjeld.practice import Practice


class Question(msgspec.Struct, frozen=True):
    """A question: its title in a person's words, the struct that is asked, and its answer under a
    practice.
    """

    name: str
    title: str
    asked: type[msgspec.Struct]
    answer: Callable[[Any, Practice], Answer]

    def ask(self, asked: Any, practice: Practice) -> Answer:
        """Its answer; raises :class:`NotAsked` where it cannot be answered as it is asked."""
        return self.answer(plain(asked), practice)


QUESTIONS: dict[str, Question] = {
    question.name: question
    for question in (
        Question("fits", "Does one more cable fit", fits.FitsAsked, fits.fits),
        Question("spot", "Where a box may be cut in", spot.SpotAsked, spot.spot),
        Question("height", "How high its box goes", spot.HeightAsked, spot.stands),
        Question("void", "Room above a ceiling", spot.VoidAsked, spot.void),
        Question("ways", "Ways between two places", between.WaysAsked, between.ways),
        Question("transfer", "A plate from the other side", ways.TransferAsked, ways.transfer),
        Question("sounding", "How far a bay is open", ways.SoundingAsked, ways.sounding),
        Question("eave", "Headroom at an eave", ways.EaveAsked, ways.eave),
        Question("pull", "What to cut for a pull", ways.PullAsked, ways.pull),
        Question("wood", "Members on the way", ways.WoodAsked, ways.wood),
        Question("masonry", "A box in masonry", ways.MasonryAsked, ways.masonry),
        Question("short", "Wires that are too short", wires.ShortAsked, wires.short),
        Question("reach", "Does the old cable reach", wires.ReachAsked, wires.reach),
        Question("cutout", "A larger box in place of one", wires.CutoutAsked, wires.cutout),
        Question("ground", "Is the ground a ground", wires.GroundAsked, wires.ground),
        Question("hangs", "Does its box carry it", devices.HangsAsked, devices.hangs),
        Question("link", "Alarms on one link", devices.LinkAsked, devices.link),
        Question("extends", "What an extension sets off", devices.ExtendsAsked, devices.extends),
        Question("replace", "What may stand in its place", devices.ReplaceAsked, devices.replaced),
        Question("fan", "A fan and its controls", fittings.FanAsked, fittings.fan),
        Question("downrod", "Where a fan turns free", fittings.DownrodAsked, fittings.downrod),
        Question("outdoors", "A light or an outlet outside", outdoors.OutdoorsAsked, outdoors.outdoors),
        Question("water", "By a tub, a shower or a basin", by_water.WaterAsked, by_water.water),
        Question("splice", "Wires joined outside a box", wires.SpliceAsked, wires.splice),
        Question("shaft", "Heat of a light in a shaft", fittings.ShaftAsked, fittings.shaft),
        Question("terminals", "Each wire of a device replaced", landings.TerminalsAsked, landings.terminals),
        Question("dimmer", "A dimmer and its load", devices.DimmerAsked, devices.dimmer),
        Question("conduit", "Flexible conduit as a ground", devices.ConduitAsked, devices.conduit),
        Question("load", "What a circuit has left", work.LoadAsked, work.load_left),
        Question("patch", "A patch and its waiting", work.PatchAsked, work.patch),
        Question("time", "How long it takes", work.TimeAsked, lambda asked, practice: work.time(asked)),
        Question(
            "pairs", "Every pair of a dead test", work.PairsAsked, lambda asked, practice: work.pairs(asked)
        ),
    )
}
