"""Rules and parts as data: what a practice asks, on which basis, and what can be bought.

A :class:`Practice` is read once from the TOML files beside this module; a rule there that is
not declared in :mod:`fjeld.practice.rules`, or whose value is not of the kind declared, does
not load. A job's local amendments give a new practice in which the amended values win and
stay visible.
"""

from __future__ import annotations

import itertools
import math
import re
import tomllib
from collections.abc import Iterable, Mapping
from functools import cache
from importlib import resources
from typing import Any, Literal, TypeVar

import msgspec

from fjeld.practice.devices import device
from fjeld.practice.kinds import LENGTH, WrongKind
from fjeld.practice.parts import Catalogue
from fjeld.practice.rules import DECLARED, RuleKey
from fjeld.quantities import Unit

T = TypeVar("T")

#: The practice that is taken until somebody says another.
USUAL = "na"
Severity = Literal["danger", "breach", "advice", "ask"]
Applies = Literal["new", "extension", "replacement", "finished wall"]

#: Units of rules that count things: a local value is a whole number of them.
COUNTED = frozenset(
    {
        "cable",
        "cables",
        "conductor",
        "conductors",
        "wires",
        "alarms",
        "circuits",
        "outlets",
        "sockets",
        "X",
    }
)


class School(msgspec.Struct, frozen=True):
    """Another way that careful people follow."""

    value: Any
    who: str = ""


class Rule(msgspec.Struct, frozen=True):
    """One rule: its value in numbers and their unit, its basis, whom it binds, and why it exists.

    What is only gone by, and never found unmet, has no severity that means anything.
    ``within`` is what a local value may be, where that is not plain from the value itself.
    """

    id: str
    title: str
    basis: str
    why: str
    severity: Severity = "advice"
    value: Any = None
    unit: str = ""
    applies_to: tuple[Applies, ...] = ("new", "extension")
    schools: tuple[School, ...] = ()
    within: tuple[float, float] | None = None
    amended: str = ""

    @property
    def shown_basis(self) -> str:
        """The basis as printed; clauses are to be checked against the reader's own copy."""
        note = f" · amended: {self.amended}" if self.amended else ""
        return f"{self.basis} (check against your printed copy){note}"


class Amendment(msgspec.Struct, frozen=True, omit_defaults=True):
    """A local value that replaces a rule's, with its reason, and who entered it when."""

    rule: str
    value: Any
    reason: str
    who: str = ""
    when: str = ""


class UnknownRule(ValueError):
    """An amendment or a check names a rule that the practice does not hold."""


class UsualCircuit(msgspec.Struct, frozen=True):
    """What a new circuit of a kind is begun with, and the word for it in a name."""

    gauge: str
    breaker: int
    name: str


def with_article(noun: str) -> str:
    """A noun with its article: a light, an outlet."""
    return f"{'an' if noun[:1].lower() in 'aeiou' else 'a'} {noun}"


class Practice(msgspec.Struct, frozen=True):
    """A named set of rules and its catalogue. ``legs`` of the supply are each ``volts`` to neutral, and twice
    that between them.

    What else it is, besides what its rules and parts say: bare lengths are in ``unit``; circuits may come
    back to their board as ``rings``; outlets have ``halves``, a protective one a ``load_side`` for what is
    beyond it; fittings come with leads (``fitting_leads``); terminals are ``lettered``, or told by their
    screws. ``codes`` are what its clauses begin with, ``neutrals`` the colours that a neutral has or had,
    ``marked`` those that conductors are marked in, ``former`` the colours of two cores before today's, in a
    ``former_sheath``, and ``ahead`` what may protect a box already, in its words. ``like`` is the practice
    whose words and tables of finished rooms it goes by, where they are not its own.

    One that is cut down to some rules knows those it may be ``asked`` for.
    """

    id: str
    title: str
    volts: float
    hertz: float
    rules: dict[str, Rule]
    catalogue: Catalogue
    circuits: dict[str, UsualCircuit]
    neutral: str = "WH"
    bare: str = "bare"
    unit: Unit = "ft-in"
    plain_line: tuple[str, ...] = ()
    halves: bool = True
    fitting_leads: bool = True
    rings: bool = False
    load_side: bool = True
    lettered: bool = False
    codes: tuple[str, ...] = ()
    neutrals: tuple[str, ...] = ("WH",)
    marked: tuple[str, ...] = ()
    former: tuple[str, ...] = ()
    former_sheath: str = ""
    like: str = ""
    ahead: dict[str, str] = {}
    legs: int = 1
    words: dict[str, str] = {}
    edges: dict[str, str] = {}
    leads: dict[str, str] = {}
    terminals: dict[str, str] = {}
    asked: frozenset[str] | None = None
    own_prices: dict[str, int] = {}

    def of(self, named: str) -> bool:
        """Whether what data narrow to a practice by name, or to none, is of this one."""
        return named in ("", self.tables)

    @property
    def tables(self) -> str:
        """The practice by whose id the tables of finished rooms, of devices' marks and of words are read."""
        return self.like or self.id

    @property
    def sleeves_ground(self) -> bool:
        """Whether a bare ground is sleeved where it comes out of its sheath."""
        return self.catalogue.sleeves[0] > 0

    @property
    def chases(self) -> bool:
        """Whether boxes and cables are let into the leaf of a wall."""
        return any(b.grip == "screws" for b in self.catalogue.old_work)

    @property
    def counts_cables(self) -> bool:
        """Whether what a box takes is told in cables, and not by volume."""
        return self.catalogue.box_unit == "cables"

    def clauses(self, basis: str) -> str:
        """Of clauses parted by semicolons those that are no other practice's."""
        others = tuple(code for name in available() for code in _codes(name) if code not in self.codes)
        return "; ".join(part for part in basis.split("; ") if not part.startswith(others))

    @property
    def version(self) -> str:
        """What tells it from others as it is in force, where results are known by value: local values and own
        prices.
        """
        local = [(rule.id, rule.value) for rule in self.rules.values() if rule.amended]
        return f"{self.id} {local!r} {self.own_prices!r}"

    def has_leads(self, kind: str) -> bool:
        """Whether a kind of device comes with leads here, and not with terminals."""
        return self.fitting_leads and device(kind).leads

    def terminal(self, name: str) -> str:
        """How a terminal or a fitting's lead is known by those who land on it."""
        return self.terminals.get(name, name)

    def word(self, word: str) -> str:
        """What this practice calls a thing."""
        return self.words.get(word, word)

    def said(self, sentence: str) -> str:
        """A sentence in this practice's words, articles with them. Names with capitals, as of rooms, are left
        alone.
        """
        if not self.words:
            return sentence

        def own(met: re.Match[str]) -> str:
            word = self.words[met[2]]
            # The first letter as it stood: at the head of a sentence it is a capital.
            return f"{met[1][0]}{with_article(word)[1:]}" if met[1] else word

        return re.sub(r"\b([Aa]n? )?(" + "|".join(self.words) + r")(?=s?\b)", own, sentence)

    def __contains__(self, key: RuleKey[Any]) -> bool:
        """Whether the practice has such a rule."""
        self._require_asked(key)
        return key.id in self.rules

    def __getitem__(self, key: RuleKey[T]) -> T:
        """A rule's value, in the program's own units: mm, A, VA, kg, m². Raises :class:`UnknownRule`."""
        found = self.rule(key)
        return key.kind.read(found.value, found.unit)

    def get(self, key: RuleKey[T], otherwise: T) -> T:
        """A rule's value, or another where the practice has no such rule."""
        return self[key] if key in self else otherwise  # noqa: SIM401 - this is what it is

    def only(self, keys: Iterable[RuleKey[Any]]) -> Practice:
        """This practice with those rules alone; to ask it for another is a fault of the program
        (``LookupError``).
        """
        asked = frozenset(key.id for key in keys)
        held = {name: rule for name, rule in self.rules.items() if name in asked}
        return msgspec.structs.replace(self, rules=held, asked=asked)

    def _require_asked(self, key: RuleKey[Any]) -> None:
        if self.asked is not None and key.id not in self.asked:
            raise LookupError(f"“{key.id}” is not among the rules that this stage reads")

    def rule(self, key: RuleKey[Any]) -> Rule:
        """A rule with its basis; raises :class:`UnknownRule`."""
        self._require_asked(key)
        return self.named(key.id)

    def named(self, name: str) -> Rule:
        """A rule by the name that files and forms have for it; raises :class:`UnknownRule`."""
        if name not in self.rules:
            raise UnknownRule(f"practice {self.id} has no rule “{name}”")
        return self.rules[name]

    def priced(self, prices: Mapping[str, int]) -> Practice:
        """This practice with a person's own prices, cents, by part as the list of materials names it."""
        if not prices:
            return self
        own = self.catalogue

        def of(kind: str, thing: Any) -> Any:
            cents = prices.get(f"{kind}:{thing.id}")
            return thing if cents is None else msgspec.structs.replace(thing, cents=cents)

        found = msgspec.structs.replace(
            own,
            boxes=tuple(of("box", b) for b in own.boxes),
            cables=tuple(of("cable", c) for c in own.cables),
            connectors=tuple(of("connector", c) for c in own.connectors),
            parts={part: prices.get(part, cents) for part, cents in own.parts.items()},
        )
        return msgspec.structs.replace(self, catalogue=found, own_prices=dict(prices))

    def amended(self, amendments: tuple[Amendment, ...]) -> Practice:
        """This practice with local values in force; raises :class:`UnknownRule`."""
        if not amendments:
            return self
        rules = dict(self.rules)
        for amendment in amendments:
            rule = self.named(amendment.rule)
            if not _same_shape(rule.value, amendment.value):
                raise UnknownRule(
                    f"rule “{rule.id}” takes a value like {rule.value!r}, not {str(amendment.value)[:60]}"
                )
            _require_within(rule, rule.value, amendment.value)
            rules[rule.id] = msgspec.structs.replace(rule, value=amendment.value, amended=amendment.reason)
        return msgspec.structs.replace(self, rules=rules)


def extent(rule: Rule) -> tuple[float, float]:
    """The least and the most that a local value of a rule of one number may be.

    What the rule says itself; else within a factor of eight of its own value, a share no more
    than the whole, a count no less than one.
    """
    own = float(rule.value)
    if rule.within is not None:
        return rule.within
    if rule.unit in COUNTED:
        return 1.0, max(8 * own, 8.0)
    most = 100.0 if rule.unit == "%" else 1.0 if rule.unit == "share" else math.inf
    return own / 8, min(8 * own, most)


def _require_within(rule: Rule, old: Any, new: Any) -> None:
    if isinstance(old, dict):
        for key, value in old.items():
            _require_within(rule, value, new[key])
    elif isinstance(old, list) and all(isinstance(v, int | float) for v in old):
        for was, value in zip(old, new, strict=True):
            _require_within(rule, was, value)
    elif isinstance(old, int | float) and not isinstance(old, bool):
        low, high = extent(msgspec.structs.replace(rule, value=old))
        if rule.unit in COUNTED and new != int(new):
            raise UnknownRule(f"“{rule.title}” counts {rule.unit}: a whole number")
        if not low <= new <= high:
            unit = f" {rule.unit}" if rule.unit else ""
            raise UnknownRule(f"“{rule.title}” can be from {low:g} to {high:g}{unit} here, not {new:g}")


def _same_shape(old: Any, new: Any) -> bool:
    if isinstance(old, bool):
        return isinstance(new, bool)
    if isinstance(old, int | float):
        return _is_measure(new)
    if isinstance(old, dict):
        alike = isinstance(new, dict) and set(new) == set(old)
        return alike and all(_same_shape(old[k], new[k]) for k in old)
    if isinstance(old, list):
        return isinstance(new, list) and _same_list(old, new)
    return type(old) is type(new)


def _is_measure(new: Any) -> bool:
    return isinstance(new, int | float) and not isinstance(new, bool) and math.isfinite(new) and new >= 0


def _same_list(old: list[Any], new: list[Any]) -> bool:
    """As many figures, a curve of as wide rows, or a few names of any number."""
    if old and all(isinstance(v, int | float) for v in old):
        return len(new) == len(old) and all(map(_same_shape, old, new))
    if old and isinstance(old[0], list):
        return _is_curve(new, len(old[0]))
    return all(isinstance(v, str) and len(v) <= 40 for v in new) and len(new) <= 60


def _is_curve(new: Any, width: int) -> bool:
    """Rows of so many numbers above nought, at least two of them, the first number rising from row to row."""
    if not isinstance(new, list) or not 2 <= len(new) <= 40:
        return False
    if not all(
        isinstance(row, list) and len(row) == width and all(_same_shape(1.0, v) and v > 0 for v in row)
        for row in new
    ):
        return False
    return all(before[0] < after[0] for before, after in itertools.pairwise(new))


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads(resources.files(__package__).joinpath(name).read_text(encoding="utf-8"))


def _rule(place: str, name: str, body: dict[str, Any]) -> Rule:
    """A rule of the data, its value taken apart as declared; raises ``ValueError`` that says where it is
    wrong.
    """
    key = DECLARED.get(name)
    if key is None:
        raise ValueError(f"{place}: no such rule is declared")
    if key.looked_at and "severity" not in body:
        raise ValueError(f"{place}: a check looks at it, and it has no severity")
    try:
        value, unit = key.kind.split(body.get("value"))
        schools = [
            {**school, "value": key.kind.split(school["value"])[0]} for school in body.get("schools", ())
        ]
        return msgspec.convert({**body, "id": name, "value": value, "unit": unit, "schools": schools}, Rule)
    except (WrongKind, msgspec.ValidationError) as wrong:
        raise ValueError(f"{place}: {wrong}") from None


@cache
def _codes(practice: str) -> tuple[str, ...]:
    return tuple(_read(f"{practice}.toml").get("codes", ()))


def _measured(written: Any) -> Any:
    """Lengths written with their unit, in mm; whatever else, as it is."""
    if isinstance(written, dict):
        return {name: value if name in _NAMED else _measured(value) for name, value in written.items()}
    if isinstance(written, list):
        return [_measured(value) for value in written]
    return LENGTH.read(*LENGTH.split(written)) if isinstance(written, str) else written


#: What of a box is a word.
_NAMED = ("id", "name", "grip", "surface")


@cache
def load(practice: str) -> Practice:
    """The practice with that id; raises ``ValueError`` if the program has none."""
    if practice not in available():
        raise ValueError(f"no practice “{practice}”; there is {', '.join(available())}")
    head = _read(f"{practice}.toml")
    # What a practice says itself goes before what holds everywhere, key by key.
    common, own = _read("common/rules.toml")["rules"], head.pop("rules")
    bodies = {name: {**common.get(name, {}), **own.get(name, {})} for name in (*common, *own)}
    rules = {name: _rule(f"{practice}.toml, {name}", name, body) for name, body in bodies.items()}
    sold = _read(f"catalogue/{practice}.toml")
    parts = msgspec.convert({**sold, "old_work": _measured(sold.get("old_work", []))}, Catalogue)
    circuits = msgspec.convert(head.pop("circuits"), dict[str, UsualCircuit])
    return Practice(rules=rules, catalogue=parts, circuits=circuits, **head)


@cache
def available() -> tuple[str, ...]:
    """The ids of the practices that ship."""
    files = resources.files(__package__).iterdir()
    return tuple(sorted(f.name.removesuffix(".toml") for f in files if f.name.endswith(".toml")))
