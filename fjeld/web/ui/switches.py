"""How the switches and breakers stand, as a page's address tells it: ``up`` and ``off`` list names."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from fjeld.derive.network import Network
from fjeld.derive.plan import Plan


class Switches(msgspec.Struct, frozen=True):
    """The switch positions that stand up, and the circuits whose breakers are off."""

    up: frozenset[str] = frozenset()
    off: tuple[str, ...] = ()

    @classmethod
    def of(cls, plan: Plan, params: Mapping[str, str]) -> Switches:
        """As a query tells it; circuits that there are not are passed over."""
        off = str(params.get("off", "")).split(",")
        up = frozenset(str(params.get("up", "")).split(","))
        return cls(up, tuple(q for q in off if q in plan.circuits))

    def state(self, network: Network | None) -> dict[str, int]:
        """Where each switch of a network stands: 1 for up."""
        return {p: int(p in self.up) for p in network.positions} if network else {}

    @property
    def breakers_off(self) -> list[str]:
        """The network's names of the breakers that are off."""
        return [f"breaker:{q}" for q in self.off]
