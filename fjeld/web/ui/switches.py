"""How the switches and breakers stand, as a page's address tells it: ``up`` and ``off`` list names."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from fjeld.derive.keys import Movable, rest
from fjeld.derive.network import Network
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle


class Switches(msgspec.Struct, frozen=True):
    """What is moved from where it rests, a switch up or a dimmer down, and the circuits whose breakers are
    off.
    """

    up: frozenset[Movable] = frozenset()
    off: tuple[Handle, ...] = ()

    @classmethod
    def of(cls, plan: Plan, params: Mapping[str, str]) -> Switches:
        """As a query tells it; switches and circuits that there are not are passed over."""
        off = str(params.get("off", "")).split(",")
        there = {str(p): p for p in plan.network.positions} if plan.network else {}
        up = frozenset(there[name] for name in str(params.get("up", "")).split(",") if name in there)
        return cls(up, tuple(Handle(q) for q in off if q in plan.circuits))

    def state(self, network: Network | None) -> dict[Movable, int]:
        """Where each of what can be moved stands."""
        return {p: rest(p) ^ int(p in self.up) for p in network.positions} if network else {}
