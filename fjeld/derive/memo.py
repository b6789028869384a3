"""Results of stages by their arguments, so that an edit runs again only the stages whose values it changed.

Two ways to know an argument again. By *identity*: drawings share their items from edit to
edit, and a remembered result is the same object the next time, so that whole chains of
stages are passed over at the price of a look-up. By *value*: a digest of the arguments,
for stages that cost more than digesting does; it also meets results again that were
reached by another way, as after an undo.
"""

from __future__ import annotations

from collections import OrderedDict, defaultdict
from collections.abc import Callable, Hashable
from hashlib import blake2b
from threading import Lock
from typing import Any, Generic, Protocol, TypeVar

import msgspec

from fjeld.quantities import Written

T = TypeVar("T")
_DIGEST_BYTES = 16
KeyT = TypeVar("KeyT", bound=Hashable)


class Remember(Protocol):
    """Runs a stage, or gives what it gave for the same arguments."""

    def __call__(self, stage: str, run: Callable[..., T], *arguments: Any, practice: str = "") -> T:
        """By identity, else by value. ``practice`` names what else the stage's result depends on."""
        ...

    def same(self, stage: str, run: Callable[..., T], *arguments: Any) -> T:
        """By identity alone: for a stage that costs no more than digesting its arguments."""
        ...

    def known(self, stage: str, value: T) -> T:
        """The value, or one equal to it that was met before: what follows from that one is known too."""
        ...


class Memo:
    """Remembers in bounds: the longest unused is dropped first. Counts the stages it had to run.

    ``limit`` bounds the bytes that its results are estimated to take. A result known by
    identity holds on to its arguments, so that no other object can come to have their identity.
    """

    def __init__(self, limit: int = 256_000_000) -> None:
        self.ran: dict[str, int] = defaultdict(int)
        # What is known by value is mostly known by identity too, and is one object.
        self._by_value: LastUsed[bytes] = LastUsed(limit // 2, weigh)
        self._by_identity: LastUsed[tuple[Any, ...]] = LastUsed(limit // 2, _weigh_known)

    def __call__(self, stage: str, run: Callable[..., T], *arguments: Any, practice: str = "") -> T:
        def by_value() -> T:
            key = blake2b(
                _digest_encoder.encode((stage, practice, arguments)), digest_size=_DIGEST_BYTES
            ).digest()
            found: T = self._by_value.get(key, lambda: self._run(stage, run, arguments))
            return found

        key = (stage, practice, *map(_identity, arguments))
        # The result itself is weighed where it is known by value.
        found: tuple[T, Any, bool] = self._by_identity.get(key, lambda: (by_value(), arguments, True))
        return found[0]

    def same(self, stage: str, run: Callable[..., T], *arguments: Any) -> T:
        key = (stage, *map(_identity, arguments))
        found: tuple[T, Any] = self._by_identity.get(
            key, lambda: (self._run(stage, run, arguments), arguments)
        )
        return found[0]

    def __len__(self) -> int:
        """How many results are kept."""
        return len(self._by_value) + len(self._by_identity)

    def clear(self) -> None:
        """Forget everything."""
        self._by_value.clear()
        self._by_identity.clear()

    @property
    def weight(self) -> int:
        """The bytes that what is kept is estimated to take."""
        return self._by_value.weight + self._by_identity.weight

    def known(self, stage: str, value: T) -> T:
        found: T = self(stage, lambda given: given, value)
        return found

    def _run(self, stage: str, run: Callable[..., T], arguments: tuple[Any, ...]) -> T:
        self.ran[stage] += 1
        return run(*arguments)


class LastUsed(Generic[KeyT]):
    """The results last used, as many as weigh no more than ``limit``; for several threads at once.

    Without ``weigh`` each counts as one. The one kept last stays, whatever it weighs.
    """

    def __init__(self, limit: int, weigh: Callable[[Any], int] = lambda result: 1) -> None:
        self._limit = limit
        self._weigh = weigh
        self._found: OrderedDict[KeyT, tuple[Any, int]] = OrderedDict()
        self._lock = Lock()
        self.weight = 0

    def __len__(self) -> int:
        return len(self._found)

    def get(self, key: KeyT, make: Callable[[], Any]) -> Any:
        """The result kept for a key, else what ``make`` gives, which is kept."""
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key][0]
        # Made outside the lock: two threads may both make it, none waits for a long one.
        made = make()
        self.keep(key, made)
        return made

    def drop(self, key: KeyT, when: Callable[[Any], bool]) -> None:
        """Forget the result kept for a key, if it is such a one."""
        with self._lock:
            if key in self._found and when(self._found[key][0]):
                self.weight -= self._found.pop(key)[1]

    def keep(self, key: KeyT, result: Any) -> None:
        """Keep a result, as the last used."""
        weight = self._weigh(result)
        with self._lock:
            if key in self._found:
                self.weight -= self._found.pop(key)[1]
            self._found[key] = (result, weight)
            self.weight += weight
            while self.weight > self._limit and len(self._found) > 1:
                self.weight -= self._found.popitem(last=False)[1][1]

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._found.clear()
            self.weight = 0


#: Bytes of an object with its reference, and how many objects are looked at before the rest is guessed.
_OBJECT, _LOOKED_AT = 72, 40


def weigh(result: Any) -> int:
    """About how many bytes a result takes: its objects counted, each once, arrays and texts by
    their length.
    """
    seen: set[int] = set()
    waiting = [result]
    weight = 0
    while waiting and len(seen) < _LOOKED_AT:
        value = waiting.pop()
        if value is None or isinstance(value, bool) or id(value) in seen:
            continue
        seen.add(id(value))
        weight += _OBJECT
        if isinstance(value, str | bytes):
            weight += len(value)
        elif isinstance(value, msgspec.Struct):
            waiting += [getattr(value, name) for name in value.__struct_fields__]
        elif isinstance(value, tuple | list | set | frozenset):
            waiting += value
        elif isinstance(value, dict):
            weight += _OBJECT * len(value)
            waiting += [*value, *value.values()]
        elif isinstance(value, Written):
            waiting += value.parts()
        elif (size := getattr(value, "nbytes", None)) is not None:
            weight += int(size)
        elif (fields := getattr(value, "__dict__", None)) is not None:
            waiting += fields.values()
    # Not all was looked at: what waits is taken to be as large as what was met.
    return weight + len(waiting) * (weight // max(1, len(seen)))


def _weigh_known(known: tuple[Any, ...]) -> int:
    return 4 * _OBJECT + (0 if len(known) > 2 else weigh(known[0]))


_PLAIN = frozenset((str, int, float, bool, type(None)))


def _identity(value: Any) -> Hashable:
    """What tells an argument from others: plain values by themselves, collections by their members."""
    kind = type(value)
    if kind in _PLAIN:
        found: Hashable = value
        return found
    if kind is tuple or kind is list:
        return tuple(map(_identity, value))
    if kind is dict:
        return (*value, *map(_identity, value.values()))
    return id(value)


def _parts(value: Any) -> Any:
    if isinstance(value, Written):
        return value.parts()
    raise TypeError(f"no digest of {type(value).__name__}")


_digest_encoder = msgspec.msgpack.Encoder(enc_hook=_parts)


class _Always:
    """Remembers nothing."""

    def __call__(self, stage: str, run: Callable[..., T], *arguments: Any, practice: str = "") -> T:
        return run(*arguments)

    def same(self, stage: str, run: Callable[..., T], *arguments: Any) -> T:
        return run(*arguments)

    def known(self, stage: str, value: T) -> T:
        return value


always: Remember = _Always()
