"""What a single question is answered with: figures, what is to be said of them, and the sums behind them."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.quantities import Working

Kind = Literal["length", "minutes", "hours", "amperes", "count", "share"]
#: ``needs`` is something further that must be there; ``fails`` that it cannot be so.
Tone = Literal["passes", "fails", "needs", "ask", "advice", "danger"]


class Figure(msgspec.Struct, frozen=True):
    """A figure under its name: lengths in mm."""

    name: str
    value: float
    kind: Kind = "length"


class Said(msgspec.Struct, frozen=True):
    """A sentence, and what it means for the work."""

    tone: Tone
    words: str
    basis: str = ""


class Answer(msgspec.Struct, frozen=True):
    """``figures`` with the one that matters first, what is ``said``, and the ``workings``.

    ``headline`` names the figures that are the answer, where it is another than the first, or two of them.
    """

    figures: tuple[Figure, ...] = ()
    said: tuple[Said, ...] = ()
    workings: tuple[Working, ...] = ()
    headline: tuple[str, ...] = ()

    def figure(self, name: str) -> float:
        """A figure by name; raises ``KeyError``."""
        for figure in self.figures:
            if figure.name == name:
                return figure.value
        raise KeyError(name)

    @property
    def leading(self) -> tuple[Figure, ...]:
        """The figures that are the answer."""
        named = tuple(f for f in self.figures if f.name in self.headline)
        return named or self.figures[:1]

    @property
    def fails(self) -> bool:
        """Whether something is so that the work cannot go on as asked."""
        return any(s.tone in ("fails", "danger") for s in self.said)


class NotAsked(ValueError):
    """A question that cannot be answered as it stands; one line that says why, whatever was written there."""

    def __init__(self, words: str) -> None:
        super().__init__(" ".join(words.split()))
