"""Nothing stands in the program that nothing asks for."""

from pathlib import Path

import vulture

import fjeld

CORE = Path(fjeld.__file__).parent
#: What only tests, or the framework by a name in its settings, ask for; and why it is kept.
KEPT = {
    "parse_net": "keys are read back where they are written",
    "parse_device": "keys are read back where they are written",
    "lamp_volts": "what a circuit simulator printed of a netlist, for whoever runs one",
    "with_fault": "faults of a network, which the proof of a house is tried against",
    "forget_drawings": "a new process, as far as drawings in memory go",
}
#: Asked for by the framework: configurations, middleware by their settings, commands, tags of templates,
#: fields of the server; by the font library, the strokes of a pen.
ASKED_BY_NAME = (
    "*Config",
    "Migration",
    "TooLarge",
    "Private",
    "LocalTime",
    "Logged",
    "NoBlanks",
    "add_arguments",
    "load_config",
    "undo_of",
    "danger_mark",
    "floor_area",
    "validate",
    "get_help_text",
    "help",
    "handle",
    "ticked",
    "_moveTo",
    "_lineTo",
    "_curveToOne",
    "_closePath",
)


def test_every_function_and_class_is_asked_for():
    found = vulture.Vulture(ignore_names=[*ASKED_BY_NAME])
    found.scavenge([str(CORE)])
    unused = {
        i.name
        for i in found.get_unused_code()
        if i.typ in ("function", "class", "method", "property", "import")
    }
    assert unused == {*KEPT}, "nothing more, and what is kept is still asked for by nobody"
