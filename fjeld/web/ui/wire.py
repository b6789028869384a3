"""What goes over the wire: only what changed on the screen.

A screen is a dictionary of fragments by element id. After an edit both screens, before
and after, are drawn, and those fragments that differ are sent as out-of-band swaps. SVG
groups travel inside an ``<svg>``, without which the parser would read them as HTML.
"""

from __future__ import annotations

import re

from django.http import HttpResponse

from fjeld.formats.sheet import Shape, svg

Fragments = dict[str, str]
#: Where people type; the trail and the rooms have buttons only.
HOLD_FORMS = ("dock", "workings")
#: SVG groups by layer; a layer whose children keep their ids is sent child by child.
Layers = dict[str, Shape]


#: The token against forged requests is masked anew in every form; that alone is no change.
_TOKEN = re.compile(r'(name="csrfmiddlewaretoken" value=")[^"]*')


def changed(before: Fragments, after: Fragments, sent: bool = False) -> str:
    """The HTML fragments that differ, marked for swapping.

    Where a form was ``sent``, those that hold forms go again, so that what was typed is cleared.
    """
    return "".join(
        _marked(html, name)
        for name, html in after.items()
        if (sent and name in HOLD_FORMS) or _bare(before.get(name, "")) != _bare(html)
    )


def _bare(html: str) -> str:
    return _TOKEN.sub(r"\1", html)


def _marked(html: str, name: str) -> str:
    return html.replace(f'id="{name}"', f'id="{name}" hx-swap-oob="outerHTML"', 1)


def changed_layers(before: Layers, after: Layers) -> str:
    """The SVG groups that differ, each inside an ``<svg>``."""
    groups: list[str] = []
    for name, layer in after.items():
        old = before.get(name)
        if old is None or old == layer:
            if old is None:
                groups.append(svg(layer))
            continue
        kept, now = _named(old), _named(layer)
        if kept and list(kept) == list(now) and old.attributes == layer.attributes:
            groups += [svg(child) for key, child in now.items() if kept[key] != child]
        else:
            groups.append(svg(layer))
    return "".join(f"<svg>{_swap(g)}</svg>" for g in groups)


def _named(layer: Shape) -> dict[str, Shape]:
    """The layer's children by id, if each has one."""
    found = {dict(c.attributes).get("id", ""): c for c in layer.children}
    return {} if "" in found or len(found) != len(layer.children) else found


def _swap(group: str) -> str:
    return group.replace("<g ", '<g hx-swap-oob="outerHTML" ', 1)


def reply(html: str, status: int = 200, address: str = "", passing: bool = False) -> HttpResponse:
    """The response to an htmx request; ``address`` is what the page now has, ``passing`` while something is typed."""
    response = HttpResponse(html, status=status)
    if address:
        response["HX-Replace-Url" if passing else "HX-Push-Url"] = address
    return response
