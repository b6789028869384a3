"""``fjeld``: the core from the command line, on job files, without server or database.

Exit codes: 0 done · 1 a danger, a breach or a failed proof · 2 input that cannot be read.
"""

from __future__ import annotations

import argparse
import sys

from fjeld import __version__
from fjeld import practice as practices
from fjeld.bench.told import COMMAND_WORDS, Told, told


def _keys(question: Told) -> str:
    """The keys of a question's JSON, each with what is asked and an example."""
    rows = []
    for name, field in question.fields.items():
        like = f", like {' / '.join(field.example.splitlines())}" if field.example else ""
        rows.append(f"  {name:<15} {field.label}{like}")
    return "\n".join(["keys:", *rows])


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="fjeld", description="Plan, check and prove the wiring of a house from its job file."
    )
    parser.add_argument("--version", action="version", version=f"fjeld {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)

    def command(name: str, words: str, file: bool = True) -> argparse.ArgumentParser:
        found = commands.add_parser(name, help=words)
        if file:
            found.add_argument("file", help="a file, or - for standard input")
        return found

    command("check", "findings; exit 1 on a danger or a breach")
    for name, words in (("derive", "the whole plan"), ("prove", "each control in each combination")):
        command(name, words).add_argument("--json", action="store_true", help="as JSON (the only form)")
    export = command("export", "another format")
    export.add_argument("--to", choices=("spice", "csv", "json"), required=True)
    export.add_argument(
        "--up",
        nargs="*",
        default=[],
        metavar="S1:K1",
        help="what is moved from rest: switches up, dimmers down; for spice",
    )
    export.add_argument("--off", nargs="*", default=[], metavar="Q1", help="breakers that are off, for spice")
    command("schema", "the JSON Schema of the job file", file=False)
    questions = told()
    practiced = [*COMMAND_WORDS.items()]
    practiced += [(name, q.title.lower()) for name, q in questions.items() if name not in COMMAND_WORDS]
    practiced.append(("source", "what is in an old box, and whether something new can be fed from it"))
    practiced.append(("instead", "a device of an old box replaced: what goes where, and whether it works"))
    for name, words in practiced:
        asked = command(name, words)
        if name in questions and name not in COMMAND_WORDS:
            asked.epilog = _keys(questions[name])
            asked.formatter_class = argparse.RawDescriptionHelpFormatter
        asked.add_argument(
            "--practice", choices=practices.available(), default=practices.USUAL, help="whose rules and units"
        )
        if name == "source":
            asked.add_argument(
                "--to", choices=("spice",), help="the likeliest of what it may be, as a netlist, instead"
            )
            asked.add_argument(
                "--up",
                nargs="*",
                default=[],
                metavar="S",
                help="switches that are closed or up, for spice; “far 1” is the one beyond cable 1",
            )
    return parser


def main(argv: list[str] | None = None) -> int:
    """Run one command; the exit code."""
    args = _parser().parse_args(argv)
    # Only what is to be run needs the engines: help is there at once.
    from fjeld import commands

    try:
        code = commands.run(args)
    except commands.REFUSED as error:
        print(f"fjeld: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0
    return code


if __name__ == "__main__":
    sys.exit(main())
