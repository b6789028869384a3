"""Rules and parts as data: what a practice asks, on which basis, and what can be bought.

A :class:`Practice` is read once from the TOML files beside this module. A job's local
amendments give a new practice in which the amended values win and stay visible.
"""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any, Literal

import msgspec

from fjeld.quantities import FOOT, INCH

Severity = Literal["danger", "breach", "advice", "ask"]
Applies = Literal["new", "extension", "replacement", "finished wall"]

_MM = {"in": INCH, "ft": FOOT, "mm": 1.0}


class School(msgspec.Struct, frozen=True):
    """Another way that careful people follow."""

    value: Any
    who: str = ""


class Rule(msgspec.Struct, frozen=True):
    """One rule: its value and unit, its basis, whom it binds, and why it exists."""

    id: str
    title: str
    basis: str
    severity: Severity
    why: str
    value: Any = None
    unit: str = ""
    applies_to: tuple[Applies, ...] = ("new", "extension")
    schools: tuple[School, ...] = ()
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


class BoxKind(msgspec.Struct, frozen=True):
    """A box on sale. ``volume`` in³; ``width`` mm of the body; ``cents`` its list price."""

    id: str
    name: str
    shape: Literal["device", "ceiling"]
    gangs: int
    volume: float
    width: float
    cents: int
    metal: bool = False
    clamps: bool = False
    end_of_run_only: bool = False


class CableKind(msgspec.Struct, frozen=True):
    """A cable on sale: gauge, insulated conductor colours in order, price, width in mm."""

    id: str
    gauge: str
    colours: tuple[str, ...]
    cents_per_foot: int
    width: float

    @property
    def insulated(self) -> int:
        return len(self.colours)


class ConnectorKind(msgspec.Struct, frozen=True):
    """A connector: the copper (mm²) and the number of conductors it takes."""

    id: str
    family: str
    name: str
    least_area: float
    most_area: float
    most_count: int
    cents: int
    least_count: int = 2
    gauges: tuple[str, ...] = ("18", "16", "14", "12", "10")


class Gauge(msgspec.Struct, frozen=True):
    """A conductor size: copper area (mm²), solid copper at 75 °C (Ω/1000 ft), breaker it limits to."""

    id: str
    area: float
    ohms_per_1000_ft: float
    breaker: int


class Coil(msgspec.Struct, frozen=True):
    """A coil on offer for a cable kind: length in feet and price."""

    feet: int
    factor: float


class Catalogue(msgspec.Struct, frozen=True):
    """Generic parts of the practice; makers' printed data overrule them."""

    boxes: tuple[BoxKind, ...]
    cables: tuple[CableKind, ...]
    connectors: tuple[ConnectorKind, ...]
    gauges: tuple[Gauge, ...]
    coils: tuple[Coil, ...]
    parts: dict[str, int]

    def gauge(self, gauge: str) -> Gauge:
        return next(g for g in self.gauges if g.id == gauge)

    def cable(self, gauge: str, insulated: int) -> CableKind | None:
        """The smallest cable of ``gauge`` with at least ``insulated`` conductors, or none."""
        fitting = [c for c in self.cables if c.gauge == gauge and c.insulated >= insulated]
        return min(fitting, key=lambda c: c.insulated, default=None)

    def cable_by_id(self, cable: str) -> CableKind:
        return next(c for c in self.cables if c.id == cable)

    def box(self, box: str) -> BoxKind | None:
        return next((b for b in self.boxes if b.id == box), None)


class Practice(msgspec.Struct, frozen=True):
    """A named set of rules and its catalogue."""

    id: str
    title: str
    volts: float
    hertz: float
    rules: dict[str, Rule]
    catalogue: Catalogue

    def rule(self, rule: str) -> Rule:
        if rule not in self.rules:
            raise UnknownRule(f"practice {self.id} has no rule “{rule}”")
        return self.rules[rule]

    def value(self, rule: str) -> Any:
        """The rule's value in its own unit."""
        return self.rule(rule).value

    def mm(self, rule: str) -> float:
        """The rule's value as a length in mm."""
        found = self.rule(rule)
        return float(found.value) * _MM[found.unit]

    def amended(self, amendments: tuple[Amendment, ...]) -> Practice:
        """This practice with local values in force; raises :class:`UnknownRule`."""
        rules = dict(self.rules)
        for amendment in amendments:
            rule = self.rule(amendment.rule)
            if not _same_shape(rule.value, amendment.value):
                raise UnknownRule(
                    f"rule “{rule.id}” takes a value like {rule.value!r}, not {amendment.value!r}"
                )
            rules[rule.id] = msgspec.structs.replace(rule, value=amendment.value, amended=amendment.reason)
        return msgspec.structs.replace(self, rules=rules)


def _same_shape(old: Any, new: Any) -> bool:
    if isinstance(old, int | float) and not isinstance(old, bool):
        return isinstance(new, int | float) and not isinstance(new, bool) and new >= 0
    if isinstance(old, dict):
        return isinstance(new, dict) and set(new) == set(old) and all(_same_shape(old[k], new[k]) for k in old)
    return type(old) is type(new)


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads(resources.files(__package__).joinpath(name).read_text(encoding="utf-8"))


@cache
def load(practice: str) -> Practice:
    """The practice with that id; raises ``ValueError`` if the program has none."""
    if practice not in available():
        raise ValueError(f"no practice “{practice}”; there is {', '.join(available())}")
    head = _read(f"{practice}.toml")
    rules = [msgspec.convert({"id": rule, **body}, Rule) for rule, body in head.pop("rules").items()]
    parts = msgspec.convert(_read(f"catalogue/{practice}.toml"), Catalogue)
    return Practice(rules={r.id: r for r in rules}, catalogue=parts, **head)


@cache
def available() -> tuple[str, ...]:
    """The ids of the practices that ship."""
    files = resources.files(__package__).iterdir()
    return tuple(sorted(f.name.removesuffix(".toml") for f in files if f.name.endswith(".toml")))
