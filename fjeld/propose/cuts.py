"""Cutting cable from coils at least cost: one-dimensional cutting stock, no splices.

Each piece is assigned to one coil; a coil is paid for when it is opened, off-cuts on hand
are free. Solved exactly as a mixed-integer program (HiGHS through SciPy) after Gilmore
and Gomory's covering model written by assignment, small enough for a house. Ties: fewer
coils, then the largest single left-over.
"""

from __future__ import annotations

import math
from typing import Any

import msgspec
import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

Array = np.ndarray[Any, np.dtype[np.float64]]


class CoilOffer(msgspec.Struct, frozen=True):
    """A coil on sale, or an off-cut on hand (``count`` of them; None: as many as wanted)."""

    length: float
    price: float | None = None
    count: int | None = None


class CutRequest(msgspec.Struct, frozen=True):
    """Pieces wanted and coils on offer, in any one unit of length."""

    pieces: tuple[float, ...]
    coils: tuple[CoilOffer, ...]


class CutCoil(msgspec.Struct, frozen=True):
    """One coil and the pieces cut from it, in the order of cutting."""

    length: float
    price: float
    pieces: tuple[float, ...]
    left: float


class CutPlan(msgspec.Struct, frozen=True):
    """The coils to open. ``proven`` when no cheaper plan exists; ``bound`` is the least possible price."""

    coils: tuple[CutCoil, ...]
    price: float
    bound: float
    proven: bool


class CutsRefused(ValueError):
    """The pieces cannot be cut from the coils on offer; the message says why."""


def plan_cuts(request: CutRequest, seconds: float = 8.0) -> CutPlan:
    """The cheapest way to cut found within so many seconds; raises :class:`CutsRefused`.

    With no seconds each piece, the longest first, comes from the first coil that holds it.
    """
    pieces = sorted(request.pieces, reverse=True)
    if not pieces:
        return CutPlan((), 0.0, 0.0, True)
    longest = max((c.length for c in request.coils), default=0.0)
    if pieces[0] > longest:
        raise CutsRefused(f"a piece of {pieces[0]:g} is longer than any coil ({longest:g})")
    if min(pieces) <= 0:
        raise CutsRefused("a piece has no length")
    stock = _stock(request, pieces)
    first = _first_fit(stock, pieces)
    if first is None:
        raise CutsRefused("the off-cuts and coils on offer do not hold all pieces")
    model = _Model(stock, pieces)
    solved = model.cheapest(seconds) if seconds > 0 else None
    if solved is None or _price(stock, solved[0]) > _price(stock, first) + 1e-9:
        # No way is cheaper than all that length at the best price of a length.
        least = math.fsum(pieces) * min(price / length for length, price in stock)
        assignment, bound, proven = first, max(solved[1] if solved else 0.0, least), False
    else:
        assignment, bound, proven = solved
        assignment = model.largest_left(assignment, seconds / 2)
    return _described(stock, pieces, assignment, bound, proven)


def _stock(request: CutRequest, pieces: list[float]) -> list[tuple[float, float]]:
    """Every coil that could be opened, as (length, price): never more of one kind than it could need."""
    stock: list[tuple[float, float]] = []
    for offer in request.coils:
        fitting = [p for p in pieces if p <= offer.length]
        # First-fit never leaves two coils less than half full together: a bound on the number opened.
        most = min(len(fitting), math.ceil(2 * sum(fitting) / offer.length))
        price = offer.length if offer.price is None else offer.price
        stock += [(offer.length, price)] * min(most, offer.count if offer.count is not None else most)
    return stock


def _first_fit(stock: list[tuple[float, float]], pieces: list[float]) -> list[int] | None:
    """First-fit decreasing, opening the coil that is cheapest by length: the plan to beat."""
    rest: dict[int, float] = {}
    assignment = []
    for piece in pieces:
        coil = next((c for c in rest if rest[c] >= piece - 1e-9), None)
        if coil is None:
            fresh = [c for c in range(len(stock)) if c not in rest and stock[c][0] >= piece - 1e-9]
            if not fresh:
                return None
            coil = min(fresh, key=lambda c: (stock[c][1] / stock[c][0], stock[c][0]))
            rest[coil] = stock[coil][0]
        rest[coil] -= piece
        assignment.append(coil)
    return assignment


def _price(stock: list[tuple[float, float]], assignment: list[int]) -> float:
    return sum(stock[c][1] for c in set(assignment))


class _Model:
    """The choice as a mixed-integer program: each piece on one coil, no coil overfull, equal coils opened in
    order.
    """

    def __init__(self, stock: list[tuple[float, float]], pieces: list[float]) -> None:
        self.stock, self.pieces = stock, pieces
        n, m = len(pieces), len(stock)
        self.variables = n * m + m
        # A coil more costs a thousandth of a cent's worth: of equal prices, fewer coils.
        self.cost = np.concatenate([np.zeros(n * m), [price + 1e-4 for _, price in stock]])
        rows = np.zeros((n + 2 * m, self.variables))
        low = np.full(n + 2 * m, -np.inf)
        high = np.zeros(n + 2 * m)
        for i in range(n):
            rows[i, i * m : (i + 1) * m] = 1
            low[i] = high[i] = 1
        for j, (length, _) in enumerate(stock):
            rows[n + j, self.on(j)] = pieces
            rows[n + j, n * m + j] = -length
            if j and stock[j] == stock[j - 1]:
                # Breaks the symmetry.
                rows[n + m + j, n * m + j], rows[n + m + j, n * m + j - 1] = 1, -1
        self.constraint = LinearConstraint(rows, low, high)

    def on(self, coil: int) -> list[int]:
        """The variables that put each piece on a coil."""
        return [i * len(self.stock) + coil for i in range(len(self.pieces))]

    def cheapest(self, seconds: float) -> tuple[list[int], float, bool] | None:
        """The assignment at least cost, a bound on it, and whether it is proven."""
        found = self._solve(self.cost, seconds)
        if found.x is None:
            return None
        bound = float(found.mip_dual_bound) if found.mip_dual_bound is not None else 0.0
        return self._assignment(found.x), bound, bool(found.status == 0)

    def largest_left(self, assignment: list[int], seconds: float) -> list[int]:
        """Of the assignments at the same cost, the one that leaves most on a single coil."""
        opened = len(self.pieces) * len(self.stock)
        same_cost = LinearConstraint(
            self.cost, -np.inf, sum(self.cost[opened + c] for c in set(assignment)) + 1e-6
        )
        best = assignment
        # Of equal coils the first is opened whenever one is.
        kinds = [j for j, coil in enumerate(self.stock) if j == 0 or coil != self.stock[j - 1]]
        for kind in kinds:
            load = np.zeros(self.variables)
            load[self.on(kind)] = self.pieces
            this_one = np.zeros(self.variables)
            this_one[opened + kind] = 1
            found = self._solve(load, seconds / len(kinds), same_cost, LinearConstraint(this_one, 1, 1))
            if found.x is not None:
                best = max(best, self._assignment(found.x), key=self._most_left)
        return best

    def _most_left(self, assignment: list[int]) -> float:
        loads = {c: 0.0 for c in assignment}
        for piece, coil in zip(self.pieces, assignment, strict=True):
            loads[coil] += piece
        return round(max(self.stock[c][0] - load for c, load in loads.items()), 6)

    def _solve(self, cost: Array, seconds: float, *also: LinearConstraint) -> Any:
        return milp(
            cost,
            constraints=[self.constraint, *also],
            integrality=np.ones(self.variables),
            bounds=Bounds(0, 1),
            options={"time_limit": seconds},
        )

    def _assignment(self, x: Array) -> list[int]:
        m = len(self.stock)
        return [int(np.argmax(x[i * m : (i + 1) * m])) for i in range(len(self.pieces))]


def _described(
    stock: list[tuple[float, float]], pieces: list[float], assignment: list[int], bound: float, proven: bool
) -> CutPlan:
    coils = []
    for coil in sorted(set(assignment), key=lambda c: (-stock[c][0], c)):
        cut = tuple(p for p, c in zip(pieces, assignment, strict=True) if c == coil)
        coils.append(CutCoil(stock[coil][0], stock[coil][1], cut, stock[coil][0] - math.fsum(cut)))
    price = math.fsum(c.price for c in coils)
    return CutPlan(tuple(coils), price, price if proven else bound, proven)
