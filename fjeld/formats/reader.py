"""Reads one file from standard input within limits, for a program that does not trust it.

Run as ``python -m fjeld.formats.reader KIND SECONDS BYTES`` with ``KIND`` one of ``job``,
``dxf``, ``ies``, ``photo``; further arguments are the file's name and, for a DXF, the storey. The answer on
standard output is a line, ``ok`` or ``refused`` and why, and after ``ok`` what was read in
its stored form. A job is also worked out and checked here, so that what never ends ends
with this process.
"""

from __future__ import annotations

import resource
import sys
from collections.abc import Callable

import msgspec


def main() -> int:
    kind, seconds, size, name, *rest = sys.argv[1:]
    # Before anything of the file is looked at.
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds), int(seconds) + 1))
    resource.setrlimit(resource.RLIMIT_AS, (int(size), int(size)))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    data = sys.stdin.buffer.read()
    readers: dict[str, Callable[[], bytes]] = {
        "job": lambda: _job(data),
        "dxf": lambda: _dxf(data, name, rest[0] if rest else ""),
        "ies": lambda: _ies(data, name),
        "photo": lambda: _photo(data),
    }
    try:
        found = readers[kind]()
    except ValueError as refused:
        words = " ".join(str(refused).split())[:300]
        sys.stdout.buffer.write(f"refused {words}\n".encode(errors="replace"))
        return 0
    sys.stdout.buffer.write(b"ok\n" + found)
    return 0


def _job(data: bytes) -> bytes:
    from fjeld.check import check
    from fjeld.derive.plan import derive
    from fjeld.formats import document, jobfile

    drawing = jobfile.decode(data)
    check(derive(drawing))
    return document.require_same(drawing)[0]


def _dxf(data: bytes, name: str, storey: str) -> bytes:
    from fjeld.drawing.handles import Handle
    from fjeld.formats import document, dxf

    found = dxf.read(data, name, Handle(storey) if storey else None)
    return msgspec.json.encode(found, enc_hook=document.plain)


def _ies(data: bytes, name: str) -> bytes:
    from fjeld.formats import document, ies

    return msgspec.json.encode(ies.read(data, name), enc_hook=document.plain)


def _photo(data: bytes) -> bytes:
    from fjeld.formats.picture import shrunk

    jpeg, width, height = shrunk(data)
    return f"{width} {height}\n".encode() + jpeg


if __name__ == "__main__":
    sys.exit(main())
