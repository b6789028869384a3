"""Results of stages by their arguments, so that an edit runs again only the stages whose values it changed."""

from __future__ import annotations

from collections import OrderedDict, defaultdict
from collections.abc import Callable
from hashlib import blake2b
from typing import Any, TypeVar

import msgspec

from fjeld.quantities import Written

T = TypeVar("T")


class Memo:
    """Results of stages by their arguments, the oldest dropped first. Counts the stages it had to run."""

    def __init__(self, limit: int = 4000) -> None:
        self.limit = limit
        self.ran: dict[str, int] = defaultdict(int)
        self._kept: OrderedDict[bytes, Any] = OrderedDict()

    def __call__(self, stage: str, run: Callable[..., T], *arguments: Any, practice: str = "") -> T:
        key = blake2b(_digest_encoder.encode((stage, practice, arguments)), digest_size=16).digest()
        if key in self._kept:
            self._kept.move_to_end(key)
            found: T = self._kept[key]
            return found
        self.ran[stage] += 1
        found = run(*arguments)
        self._kept[key] = found
        if len(self._kept) > self.limit:
            self._kept.popitem(last=False)
        return found


def _parts(value: Any) -> Any:
    if isinstance(value, Written):
        return value.parts()
    raise TypeError(f"no digest of {type(value).__name__}")


_digest_encoder = msgspec.msgpack.Encoder(enc_hook=_parts)


def always(_stage: str, run: Callable[..., T], *arguments: Any, practice: str = "") -> T:
    return run(*arguments)


Remember = Callable[..., Any]
