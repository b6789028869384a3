"""How the switches and breakers stand, as a page's address tells it: ``up`` and ``off`` list names."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from fjeld.derive.keys import DeviceKey
from fjeld.derive.network import Network
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle


class Switches(msgspec.Struct, frozen=True):
    """The switch positions that stand up, and the circuits whose breakers are off."""

    up: frozenset[DeviceKey] = frozenset()
    off: tuple[Handle, ...] = ()

    @classmethod
    def of(cls, plan: Plan, params: Mapping[str, str]) -> Switches:
        """As a query tells it; switches and circuits that there are not are passed over."""
        off = str(params.get("off", "")).split(",")
        there = {str(p): p for p in plan.network.positions} if plan.network else {}
        up = frozenset(there[name] for name in str(params.get("up", "")).split(",") if name in there)
        return cls(up, tuple(Handle(q) for q in off if q in plan.circuits))

    def state(self, network: Network | None) -> dict[DeviceKey, int]:
        """Where each switch of a network stands: 1 for up."""
        return {p: int(p in self.up) for p in network.positions} if network else {}
