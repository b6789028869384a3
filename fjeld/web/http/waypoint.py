"""A waypoint of the trail: what a screen brings, in one place, with its type."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import msgspec
from django.http import QueryDict

from fjeld.drawing.edits import Edit
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape
from fjeld.web.http.view import View
from fjeld.web.ui.panel import Shown

#: What a form of a screen means, by the name of its action; raises ``EditRefused``, with words.
Action = Callable[[View, QueryDict], Edit]


class Waypoint(msgspec.Struct, frozen=True):
    """One screen of the trail.

    ``layers`` draw on the floor, ``dock`` and ``workings`` are what its two templates are written
    from (``templates/<name>/``), ``actions`` its edits. ``previews`` what is typed before it is
    sent; ``searches`` for something beside the page; ``floor`` tells that it shows rooms, ``ghosts``
    that it can draw what a fix would do, ``names`` that rooms can be dragged by their names;
    ``on_site`` are the actions that a site hand may take.
    """

    name: str
    title: str
    layers: Callable[[View, Floor], dict[str, Shape]]
    dock: Callable[[View], Shown]
    workings: Callable[[View], Shown]
    actions: Mapping[str, Action]
    previews: bool = False
    searches: bool = False
    floor: bool = True
    ghosts: bool = False
    names: bool = False
    on_site: frozenset[str] = frozenset()
    folder: str = ""

    @property
    def templates(self) -> str:
        """The folder of its templates."""
        return self.folder or self.name
