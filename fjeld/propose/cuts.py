"""Cutting cable from coils at least cost: one-dimensional cutting stock, no splices.

Each piece is assigned to one coil; a coil is paid for when it is opened, off-cuts on hand are free. A few
pieces are assigned exactly, as a mixed-integer program (HiGHS through SciPy). Of many, what may be cut from
one coil is priced out column by column after Gilmore and Gomory (1961, 1963), and the best of those ways is
chosen; the dual prices bound what any plan must cost. Searches end by counts of nodes and of columns, never
by the clock: the same pieces give the same answer on a busy machine. Ties: fewer coils, then the largest
single left-over.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import msgspec
import numpy as np

if TYPE_CHECKING:
    from scipy.optimize import LinearConstraint

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


#: So many pieces are assigned exactly; of more, ways of cutting a coil are priced out. Of so many, the
#: largest left-over is sought among all plans of one price.
EXACTLY, TIES = 24, 12
#: Branches of one search, columns of one pricing, and how often the coils that waste most are cut anew.
NODES, COLUMNS, ROUNDS = 500, 400, 4
#: A length is this share of a coil at its finest where ways of cutting it are priced out.
GRID = 2000
#: A coil more costs a thousandth of a cent's worth: of equal prices, fewer coils.
ONE_COIL = 1e-4


def plan_cuts(request: CutRequest, search: bool = True) -> CutPlan:
    """The cheapest way to cut that is found; raises :class:`CutsRefused`.

    Without a search each piece, the longest first, comes from the first coil that holds it.
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
    least = least_by_length(stock, pieces)
    if not search:
        return _described(stock, pieces, first, bound=least, proven=_price(stock, first) <= least + 1e-9)
    if len(pieces) <= EXACTLY:
        chosen, bound, proven = _Model(stock, pieces).cheapest() or (first, least, False)
    else:
        chosen, bound = _by_ways(stock, pieces, first)
        chosen, proven = _mended(stock, pieces, chosen), False
    best = min((first, chosen), key=lambda a: (_price(stock, a), len({*a})))
    bound = max(bound, least)
    # What a coil more costs beside its price is in no bound.
    proven = proven or _price(stock, best) <= bound + ONE_COIL * len(pieces)
    few = len(pieces) <= TIES
    whole = _Model(stock, pieces).largest_left(best) if few else _emptied(stock, pieces, best)
    return _described(stock, pieces, whole, bound=bound, proven=proven)


def least_by_length(stock: Sequence[tuple[float, float]], pieces: Sequence[float]) -> float:
    """What that length costs at the least, were it cut from parts of coils: the cheapest length first, and of
    each coil no more than there is. A bound on any plan; 0 only where off-cuts on hand are long enough.
    """
    wanted, cost = math.fsum(pieces), 0.0
    for length, price in sorted(stock, key=lambda coil: coil[1] / coil[0]):
        taken = min(length, wanted)
        cost += price * taken / length
        wanted -= taken
        if wanted <= 0:
            break
    return cost


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
        from scipy.optimize import LinearConstraint

        self.stock, self.pieces = stock, pieces
        n, m = len(pieces), len(stock)
        self.variables = n * m + m
        self.cost = np.concatenate([np.zeros(n * m), [price + ONE_COIL for _, price in stock]])
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

    def cheapest(self) -> tuple[list[int], float, bool] | None:
        """The assignment at least cost, a bound on it, whether it is proven; nothing where none is found."""
        found = _solved(self.cost, [self.constraint])
        if found.x is None:
            return None
        # The bound is of prices with a thousandth for each coil; without, it is lower by at most those.
        bound = float(found.mip_dual_bound or 0.0) - ONE_COIL * len(self.stock)
        return self._assignment(found.x), bound, bool(found.status == 0)

    def largest_left(self, assignment: list[int]) -> list[int]:
        """Of the assignments at the same cost, the one that leaves most on a single coil."""
        from scipy.optimize import LinearConstraint

        opened = len(self.pieces) * len(self.stock)
        most = sum(self.cost[opened + c] for c in set(assignment)) + 1e-6
        same_cost = LinearConstraint(self.cost, -np.inf, most)
        best = assignment
        # Of equal coils the first is opened whenever one is.
        kinds = [j for j, coil in enumerate(self.stock) if j == 0 or coil != self.stock[j - 1]]
        for kind in kinds:
            load = np.zeros(self.variables)
            load[self.on(kind)] = self.pieces
            this_one = np.zeros(self.variables)
            this_one[opened + kind] = 1
            found = _solved(load, [self.constraint, same_cost, LinearConstraint(this_one, 1, 1)])
            if found.x is not None:
                best = max(best, self._assignment(found.x), key=self._most_left)
        return best

    def _most_left(self, assignment: list[int]) -> float:
        loads = {c: 0.0 for c in assignment}
        for piece, coil in zip(self.pieces, assignment, strict=True):
            loads[coil] += piece
        return round(max(self.stock[c][0] - load for c, load in loads.items()), 6)

    def _assignment(self, x: Array) -> list[int]:
        m = len(self.stock)
        return [int(np.argmax(x[i * m : (i + 1) * m])) for i in range(len(self.pieces))]


def _solved(cost: Array, constraints: list[LinearConstraint], nodes: int = NODES) -> Any:
    """A program of noughts and ones, searched for so many nodes and not for so long."""
    from scipy.optimize import Bounds, milp

    return milp(
        cost,
        constraints=constraints,
        integrality=np.ones(len(cost)),
        bounds=Bounds(0, 1),
        options={"node_limit": nodes},
    )


def _loads(pieces: list[float], assignment: list[int]) -> dict[int, float]:
    """What is cut from each coil that is opened."""
    found = dict.fromkeys(assignment, 0.0)
    for piece, coil in zip(pieces, assignment, strict=True):
        found[coil] += piece
    return found


def _emptied(stock: list[tuple[float, float]], pieces: list[float], assignment: list[int]) -> list[int]:
    """The same coils with more left on one of them: each in turn gives what it can to the others, its longest
    pieces first and into the narrowest room; the one that ends with most left has given.
    """
    best, most = assignment, max(stock[c][0] - load for c, load in _loads(pieces, assignment).items())
    for giver in sorted({*assignment}):
        given, loads = [*assignment], _loads(pieces, assignment)
        for i, piece in enumerate(pieces):
            rooms = [
                (stock[c][0] - load, c)
                for c, load in loads.items()
                if c != giver and stock[c][0] - load >= piece
            ]
            if given[i] == giver and rooms:
                loads[giver] -= piece
                loads[min(rooms)[1]] += piece
                given[i] = min(rooms)[1]
        left = stock[giver][0] - loads[giver]
        if left > most + 1e-9:
            best, most = given, left
    return best


def _mended(stock: list[tuple[float, float]], pieces: list[float], assignment: list[int]) -> list[int]:
    """The plan with the coils that waste most cut anew, exactly, as many of them as that can be done for, as
    long as it gets cheaper.
    """
    best = assignment
    for _ in range(ROUNDS):
        tried = _cut_anew(stock, pieces, best)
        if tried is None or _price(stock, tried) >= _price(stock, best) - 1e-9:
            break
        best = tried
    return best


def _cut_anew(
    stock: list[tuple[float, float]], pieces: list[float], assignment: list[int]
) -> list[int] | None:
    """The pieces of the coils that waste most, cut as cheaply as they can be; none where that is too much."""
    again = _wasted_most(stock, pieces, assignment)
    if not again:
        return None
    kept = {c for i, c in enumerate(assignment) if i not in again}
    free = [c for c in range(len(stock)) if c not in kept]
    # No more of one kind than those pieces could need.
    few = [c for n, c in enumerate(free) if sum(stock[d] == stock[c] for d in free[:n]) < len(again)]
    found = _Model([stock[c] for c in few], [pieces[i] for i in again]).cheapest()
    if found is None:
        return None
    tried = [*assignment]
    for i, coil in zip(again, found[0], strict=True):
        tried[i] = few[coil]
    return tried


def _wasted_most(stock: list[tuple[float, float]], pieces: list[float], assignment: list[int]) -> list[int]:
    """The pieces of the coils that waste most, as many as can be cut exactly."""
    loads = _loads(pieces, assignment)
    found: list[int] = []
    for coil in sorted(loads, key=lambda c: loads[c] / stock[c][0]):
        mine = [i for i, c in enumerate(assignment) if c == coil]
        if len(found) + len(mine) <= EXACTLY:
            found += mine
    return sorted(found)


# --- ways of cutting one coil ---------------------------------------------------------------

#: A kind of coil that is on offer: its length, its price, and how many of it there are.
Kind = tuple[float, float, int]
#: A way of cutting one coil: which kind, and which pieces.
Way = tuple[int, tuple[int, ...]]


def _by_ways(
    stock: list[tuple[float, float]], pieces: list[float], first: list[int]
) -> tuple[list[int], float]:
    """An assignment out of priced ways of cutting a coil, and a bound on every plan."""
    kinds = [(*coil, stock.count(coil)) for coil in dict.fromkeys(stock)]
    ways = _ways_of(stock, kinds, first)
    # Each piece by itself from each kind that holds it, so that prices always exist.
    ways += [(k, (i,)) for k, kind in enumerate(kinds) for i, p in enumerate(pieces) if p <= kind[0]]
    bound = 0.0
    for _ in range(COLUMNS):
        prices, limits = _priced(kinds, pieces, ways)
        bound = max(bound, _bound(kinds, pieces, prices))
        fresh = [
            (k, cut)
            for k, (length, price, _) in enumerate(kinds)
            for worth, cut in [_most_worth(length, pieces, prices, up=True)]
            if worth > price + ONE_COIL - limits[k] + 1e-6
        ]
        if not (fresh := [way for way in fresh if way not in ways]):
            break
        ways += fresh
    return _chosen(stock, kinds, pieces, ways, first), bound


def _ways_of(stock: list[tuple[float, float]], kinds: list[Kind], assignment: list[int]) -> list[Way]:
    """The ways in which a plan cuts its coils."""
    names = [kind[:2] for kind in kinds]
    return [
        (names.index(stock[coil]), tuple(i for i, c in enumerate(assignment) if c == coil))
        for coil in dict.fromkeys(assignment)
    ]


def _table(kinds: list[Kind], pieces: list[float], ways: list[Way]) -> tuple[Array, Array, Array]:
    """What each way costs, which pieces it cuts, and which kind it opens: a column a way."""
    cost = np.array([kinds[k][1] + ONE_COIL for k, _ in ways])
    cuts, opens = np.zeros((len(pieces), len(ways))), np.zeros((len(kinds), len(ways)))
    for n, (k, cut) in enumerate(ways):
        cuts[list(cut), n] = 1
        opens[k, n] = 1
    return cost, cuts, opens


def _priced(kinds: list[Kind], pieces: list[float], ways: list[Way]) -> tuple[Array, Array]:
    """What each piece is worth by the ways that are known, and what each kind of coil that is short is."""
    from scipy.optimize import linprog

    cost, cuts, opens = _table(kinds, pieces, ways)
    # A way more than there are coils is paid for, so that prices always exist.
    rows, limits = np.vstack([-cuts, opens]), np.concatenate([-np.ones(len(pieces)), [k[2] for k in kinds]])
    extra = np.vstack([np.zeros((len(pieces), len(kinds))), -np.eye(len(kinds))])
    dear = np.full(len(kinds), 10 * (cost.max() + 1))
    found = linprog(
        np.concatenate([cost, dear]), A_ub=np.hstack([rows, extra]), b_ub=limits, method="highs-ds"
    )
    worth = -np.asarray(found.ineqlin.marginals)
    return np.maximum(worth[: len(pieces)], 0.0), -np.maximum(worth[len(pieces) :], 0.0)


def _most_worth(length: float, pieces: list[float], prices: Array, up: bool) -> tuple[float, tuple[int, ...]]:
    """The pieces of one coil that are worth most together, lengths counted up or down to the grid: up, they
    can be cut; down, no cut is worth more. A knapsack, by its recurrence over lengths: O(pieces × grid).
    """
    unit = length / GRID
    sizes = [math.ceil(p / unit - 1e-9) if up else math.floor(p / unit + 1e-9) for p in pieces]
    best = np.zeros(GRID + 1)
    took = np.zeros((len(pieces), GRID + 1), dtype=bool)
    for i, size in enumerate(sizes):
        if size > GRID or prices[i] <= 0 or pieces[i] > length:
            continue
        with_it = best[: GRID + 1 - size] + prices[i]
        better = with_it > best[size:] + 1e-12
        took[i, size:] = better
        best[size:] = np.where(better, with_it, best[size:])
    left, cut = GRID, []
    for i in range(len(pieces) - 1, -1, -1):
        if took[i, left]:
            cut.append(i)
            left -= sizes[i]
    return float(best[GRID]), tuple(sorted(cut))


def _bound(kinds: list[Kind], pieces: list[float], prices: Array) -> float:
    """What every plan costs at the least, by any worth of its pieces: no coil gives more worth than it costs
    (Farley 1990), but for those of which there are only so many, which give theirs once each (Lagrange).
    """
    worth = [_most_worth(length, pieces, prices, up=False)[0] for length, _, _ in kinds]
    # What is on sale is expanded to as many as could be needed; those few that are left over are limited.
    many = [k for k, (_, price, count) in enumerate(kinds) if price > 0 and count >= 2]
    scale = max((worth[k] / kinds[k][1] for k in many), default=1.0)
    scale = max(scale, 1.0)
    short = sum(
        count * max(0.0, worth[k] / scale - price)
        for k, (_, price, count) in enumerate(kinds)
        if k not in many
    )
    return float(prices.sum()) / scale - short


def _chosen(
    stock: list[tuple[float, float]],
    kinds: list[Kind],
    pieces: list[float],
    ways: list[Way],
    first: list[int],
) -> list[int]:
    """The best of the known ways that cut every piece, as an assignment; ``first`` where none does."""
    from scipy.optimize import LinearConstraint

    cost, cuts, opens = _table(kinds, pieces, ways)
    every = LinearConstraint(cuts, 1, np.inf)
    enough = LinearConstraint(opens, -np.inf, [k[2] for k in kinds])
    # What the coils that waste most could still save is looked for afterwards.
    found = _solved(cost, [every, enough], NODES // 10)
    if found.x is None:
        return first
    free = {k: [c for c, coil in enumerate(stock) if coil == kind[:2]] for k, kind in enumerate(kinds)}
    assignment: dict[int, int] = {}
    for n in np.flatnonzero(found.x > 0.5):
        k, cut = ways[n]
        coil = free[k].pop(0)
        # What two ways cut is cut once.
        assignment |= {i: coil for i in cut if i not in assignment}
    return [assignment[i] for i in range(len(pieces))]


def _described(
    stock: list[tuple[float, float]],
    pieces: list[float],
    assignment: list[int],
    *,
    bound: float,
    proven: bool,
) -> CutPlan:
    coils = []
    for coil in sorted(set(assignment), key=lambda c: (-stock[c][0], c)):
        cut = tuple(p for p, c in zip(pieces, assignment, strict=True) if c == coil)
        coils.append(CutCoil(stock[coil][0], stock[coil][1], cut, stock[coil][0] - math.fsum(cut)))
    price = math.fsum(c.price for c in coils)
    return CutPlan(tuple(coils), price, price if proven else bound, proven)
