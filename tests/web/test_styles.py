"""Every class that is drawn is styled, and every style is of something drawn."""

import ast
import re
from pathlib import Path
from typing import get_args, get_type_hints

import fjeld.web
from fjeld.drawing.building import Opening
from fjeld.practice.colours import NAMES
from fjeld.web.waypoints import WAYPOINTS

WEB = Path(fjeld.web.__file__).parent
BUILT = WEB / "static" / "styles" / "fjeld.css"
OWN = (WEB / "assets" / "fjeld.css").read_text() + (WEB / "assets" / "drawings.css").read_text()
#: Classes that say what a thing is, for scripts and tests; they look like what holds them.
HOOKS = {"htmx-request", "is-busy"}
SCRIPTS = [*(WEB / "static" / "scripts").glob("[bp]*.js")]


#: Classes whose end is the name of something: all that it can be.
FAMILIES = {
    "strip-": get_args(get_type_hints(Opening)["kind"]),
    "wire-": {*NAMES.values(), "off", "unseen"},
    "a": {"1", "2", "3"},
    "at-": set(WAYPOINTS),
}


def in_selectors(css):
    """The classes that a style sheet has rules for."""
    bare = re.sub(r"/\*.*?\*/", "", css, flags=re.DOTALL)
    found = re.findall(r"\.((?:\\.|[A-Za-z_-])(?:\\.|[\w-])*)", re.sub(r"\{[^{}]*\}", "{}", bare))
    return {re.sub(r"\\(.)", r"\1", name) for name in found}


def of_templates():
    for file in (WEB / "templates").rglob("*.html"):
        source = file.read_text()
        for value in re.findall(r'class="([^"]*(?:\{%.*?%\}[^"]*)*)"', source):
            plain = re.sub(r"\{\{.*?\}\}", "\0", re.sub(r"\{%.*?%\}", " ", value))
            yield from ((name, file.name) for name in plain.split() if "\0" not in name)


def of_drawings():
    """What the program writes as a class: the constant texts given as ``cls`` or among a shape's own."""
    for file in [*WEB.rglob("*.py"), *(WEB.parent / "graphics").rglob("*.py")]:
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.keyword) and node.arg == "cls":
                for part in ast.walk(node.value):
                    if isinstance(part, ast.Constant) and isinstance(part.value, str):
                        yield from ((name, file.name) for name in part.value.split())


def test_every_class_drawn_is_styled():
    styled = in_selectors(BUILT.read_text()) | HOOKS
    assert len(styled) > 200
    missing = {
        (name, where) for name, where in (*of_templates(), *of_drawings()) if name not in styled | {*FAMILIES}
    }
    assert missing == set()


def test_every_style_is_of_something_drawn():
    """A class of the product's own style sheet stands somewhere in a template, a drawing or a script."""
    sources = [
        *(WEB / "templates").rglob("*.html"),
        *WEB.rglob("*.py"),
        *(f for f in (WEB.parent / "graphics").rglob("*.py") if f.name != "style.py"),
        *SCRIPTS,
    ]
    words = set(re.findall(r"[\w-]+", " ".join(file.read_text() for file in sources)))
    own = in_selectors(OWN)
    assert len(own) > 80
    families = {prefix + name for prefix, names in FAMILIES.items() for name in names}
    assert own - words - families == set()


def test_whatever_a_thing_can_be_it_is_styled():
    """A kind of opening, a colour of conductor: a class that is put together from a name has a
    rule for each.
    """
    styled = in_selectors(OWN)
    for prefix in ("strip-", "wire-"):
        assert {prefix + name for name in FAMILIES[prefix]} <= styled
