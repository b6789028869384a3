"""Shapes written as SVG."""

from __future__ import annotations

from html import escape

from fjeld.graphics.shapes import Shape


def svg(found: Shape) -> str:
    """The shape as SVG text; everything is escaped."""
    attributes = "".join(f' {name}="{escape(value)}"' for name, value in found.attributes)
    if not found.children and not found.text:
        return f"<{found.tag}{attributes}/>"
    inner = escape(found.text) + "".join(svg(c) for c in found.children)
    return f"<{found.tag}{attributes}>{inner}</{found.tag}>"
