"""Templates can be read: no line is wider than what fits, but for one tag that nothing can fold."""

import re
import subprocess
import sys
from pathlib import Path

import fjeld.web

TEMPLATES = sorted((Path(fjeld.web.__file__).parent / "templates").rglob("*.html"))
WIDE = 140


def test_no_line_is_wide_but_where_one_tag_is():
    wide = [
        f"{file.parent.name}/{file.name}:{n}"
        for file in TEMPLATES
        for n, line in enumerate(file.read_text().splitlines(), 1)
        if len(line) > WIDE and not re.fullmatch(r"\s*\{% (?:(?!%\}).)*%\}", line)
    ]
    assert wide == []


def test_templates_are_as_their_formatter_writes_them():
    djade = Path(sys.executable).parent / "djade"
    done = subprocess.run(
        [djade, "--check", "--target-version", "5.2", *TEMPLATES], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stdout + done.stderr
