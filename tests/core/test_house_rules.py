"""Rules of this house's own code that no linter knows."""

from pathlib import Path

import fjeld

CORE = Path(fjeld.__file__).parent


def test_every_module_says_what_it_is_for():
    silent = [
        str(p.relative_to(CORE))
        for p in CORE.rglob("*.py")
        if p.name != "__init__.py"
        and "migrations" not in p.parts
        and not p.read_text().lstrip().startswith('"""')
    ]
    assert not silent
