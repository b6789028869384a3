"""Boxes that nobody would draw: cables, joints, devices and readings at random, the readings those of one of
their wirings.
"""

from msgspec.structs import replace

from fjeld.drawing.old_box import Device, cable_of
from fjeld.judge.volts import Volts
from fjeld.oldbox.alike import nothing_alike
from fjeld.oldbox.found import FoundBox, Reading, nets
from fjeld.oldbox.hypotheses import hypotheses
from fjeld.oldbox.shows import shows
from fjeld.oldbox.weighed import groups
from fjeld.practice import load

COLOURS = {
    "na": (("BK", "WH", "G"), ("BK", "RD", "WH", "G")),
    "gb": (("BN", "BU", "G"), ("BN", "BK", "GY", "G")),
}
DEVICES = {
    "switch": (("switch", ("a", "b")), ("three-way", ("common", "t1", "t2"))),
    "outlet": (("outlet", ("brass", "silver")),),
    "ceiling": (("light", ("hot", "neutral")),),
    "junction": (),
}


def random_box(die, practice, most=3):
    """A box of up to ``most`` cables with joints and a device, and no reading."""
    two, three = COLOURS[practice]
    count = die.randint(1, most)
    kinds = [two if die.random() < 0.7 else three for _ in range(count)]
    cables = tuple(cable_of(str(n), c) for n, c in enumerate(kinds, 1))
    lights = [c.insulated[-1] for c in cables]
    joints = [tuple(die.sample(lights, die.randint(2, count)))] if count > 1 and die.random() < 0.8 else []
    free = [e for c in cables for e in c.insulated if not any(e in j for j in joints)]
    die.shuffle(free)
    place = die.choice(sorted(DEVICES))
    devices = ()
    if DEVICES[place] and die.random() < 0.8:
        kind, terminals = die.choice(DEVICES[place])
        devices = (Device("D", kind, {t: (free.pop(),) for t in terminals if free}),)
    if len(free) > 1 and die.random() < 0.4:
        joints.append(tuple(free[:2]))
    return FoundBox(place, cables, tuple(joints), devices)


def with_reading(die, box, practice):
    """The box with a reading of one of its wirings; none where it has no wiring."""
    live, alone = {}, {}
    for group in groups(box):
        where = nets(group)
        found = hypotheses(group, where, load(practice).rings, nothing_alike(group, where))
        if not found:
            return None
        hypothesis = die.choice(found)
        shown = shows(group, where, hypothesis)
        live |= {e: (shown.live[n], shown.all) for n, ends in enumerate(where.ends) for e in ends[:1]}
        alone |= shown.alone
    seen = [e for e in live if die.random() < 0.8]
    volts = load(practice).volts
    if die.random() < 0.6:
        words = {
            e: "always" if live[e][0] == live[e][1] else "sometimes" if live[e][0] else "never" for e in seen
        }
        reading = Reading("R4", words=words, proven=True, every_switch=True, power=True)
    else:
        to_earth = {
            e: Volts(volts + die.random(), volts) if m else Volts(die.random(), 0.0) for e, m in alone.items()
        }
        reading = Reading("R8", to_earth=to_earth, proven=True, parted=True, power=True)
    return replace(box, readings=(reading,))
