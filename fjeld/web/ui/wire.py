"""What goes over the wire: only what changed on the screen.

A screen is a dictionary of fragments by element id. After an edit both screens, before
and after, are drawn, and those fragments that differ are sent as out-of-band swaps. SVG
groups travel inside an ``<svg>``, without which the parser would read them as HTML.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

import msgspec
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django_htmx.http import push_url, replace_url

from fjeld.graphics.shapes import Shape
from fjeld.graphics.svg import svg

#: Where people type; the trail and the rooms have buttons only.
HOLD_FORMS = ("dock", "workings")
#: SVG groups by layer; a layer whose children keep their ids is sent child by child.
Layers = dict[str, Shape]
#: Stands around a fragment's name in its opening tag, where it says that it is to be swapped in once it is
#: sent as such.
SWAP = "\ue000"
_MARKS = re.compile(f"{SWAP}[^{SWAP}]*{SWAP}")
_SWAPPED = ' hx-swap-oob="outerHTML"'
#: The token against forged requests is masked anew in every form; that alone is no change.
_TOKEN = re.compile(r'(name="csrfmiddlewaretoken" value=")[^"]*')


class Fragment(msgspec.Struct, frozen=True):
    """A part of a page that can be swapped for another: its HTML, with the place where it says so."""

    name: str
    html: str

    def __post_init__(self) -> None:
        if self.html.count(mark(self.name)) != 1:
            raise ValueError(f"the template of a fragment begins with {{% fragment {self.name} %}}, once")

    def __str__(self) -> str:
        """The HTML as it stands in a whole page."""
        return _MARKS.sub("", self.html)

    @property
    def swapped(self) -> str:
        """The HTML that takes the place of what a page shows."""
        return _MARKS.sub("", self.html.replace(mark(self.name), _SWAPPED))

    def same(self, other: Fragment | None) -> bool:
        """Whether it shows what another does."""
        return other is not None and _TOKEN.sub(r"\1", self.html) == _TOKEN.sub(r"\1", other.html)


Fragments = Mapping[str, Fragment]


def mark(name: str) -> str:
    """The place in a fragment's opening tag that is its own; parts of it have theirs."""
    return f"{SWAP}{name}{SWAP}"


def fragment(template: str, given: dict[str, Any], request: HttpRequest) -> Fragment:
    """A fragment written from its template, which has its name."""
    name = template.rpartition("/")[2].removesuffix(".html")
    return Fragment(name, render_to_string(template, given, request))


def at_step(found: Fragments, expected: int, seq: int) -> Fragments:
    """Fragments drawn for the step that was expected, once it is known which one it became: others may have
    been faster.
    """
    was, now = f'data-later="{expected}"', f'data-later="{seq}"'
    return {name: msgspec.structs.replace(f, html=f.html.replace(was, now)) for name, f in found.items()}


def changed(before: Fragments, after: Fragments, sent: bool = False) -> str:
    """The fragments that differ, to be swapped in.

    Where a form was ``sent``, those that hold forms go again, so that what was typed is cleared.
    """
    return "".join(
        new.swapped
        for name, new in after.items()
        if (sent and name in HOLD_FORMS) or not new.same(before.get(name))
    )


def changed_layers(before: Layers, after: Layers) -> str:
    """The SVG groups that differ, each inside an ``<svg>``."""
    groups: list[Shape] = []
    for name, layer in after.items():
        old = before.get(name)
        if old is None or old == layer:
            if old is None:
                groups.append(layer)
            continue
        kept, now = _named(old), _named(layer)
        if kept and list(kept) == list(now) and old.attributes == layer.attributes:
            groups += [child for key, child in now.items() if kept[key] != child]
        else:
            groups.append(layer)
    return "".join(f"<svg>{svg(_swapping(g))}</svg>" for g in groups)


def _named(layer: Shape) -> dict[str, Shape]:
    """The layer's children by id, if each has one."""
    found = {dict(c.attributes).get("id", ""): c for c in layer.children}
    return {} if "" in found or len(found) != len(layer.children) else found


def _swapping(group: Shape) -> Shape:
    return msgspec.structs.replace(group, attributes=(("hx-swap-oob", "outerHTML"), *group.attributes))


def reply(html: str, status: int = 200, address: str = "", passing: bool = False) -> HttpResponse:
    """The response to an htmx request; ``address`` is what the page now has, ``passing`` while something is
    typed.
    """
    response = HttpResponse(html, status=status)
    if address:
        named: HttpResponse = (replace_url if passing else push_url)(response, address)
        return named
    return response
