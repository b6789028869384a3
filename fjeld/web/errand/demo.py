"""The demo's errands: recorded, read and walked as a person would, each at another stage."""

from __future__ import annotations

import json
from datetime import datetime, timedelta
from typing import Any

import msgspec
from django.contrib.auth.base_user import AbstractBaseUser
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.demo import errands
from fjeld.drawing.building import Room
from fjeld.drawing.errand import Errand, Spot, Way
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Drawing, new_house
from fjeld.drawing.old_box import OldBox
from fjeld.errand.record import as_found, drawn_as
from fjeld.formats.found import read_reading
from fjeld.formats.jobfile import convert
from fjeld.oldbox.arrangements import arrangements
from fjeld.web.errand.actions import unplaced
from fjeld.web.errand.logbook import pairs_of, reckoned_now
from fjeld.web.http import store
from fjeld.web.places import records
from fjeld.web.places.planned import plan_of
from fjeld.work.records import ReadingTaken, StepEvent

ROOM, BOX = Handle("R1"), Handle("E1")


def load(user: AbstractBaseUser) -> None:
    """Every errand of the demo."""
    for told in json.loads(errands()):
        _load(told, user)


def _load(told: dict[str, Any], user: AbstractBaseUser) -> None:
    practice = practices.load(told["practice"])
    unit = practice.unit
    spot = convert(told.get("spot", {}), Spot, told["name"], unit)
    way = convert(told.get("way", {}), Way, told["name"], unit)
    errand = Errand(
        told["wants"],
        bool(told.get("attic")),
        bool(told.get("below")),
        spot=spot,
        way=way,
        becomes=told.get("becomes", ""),
    )
    usual = next(a for a in arrangements(told["practice"]) if a.words.startswith(told["usual"]))
    old = drawn_as(unplaced(ROOM), usual.box)
    held = " and ".join(h.kind for h in old.held)
    looked = msgspec.convert({"room": "R1", **told["looks"]}, OldBox)
    fields = {name: getattr(looked, name) for name in told["looks"]}
    cables = tuple(replace(c, gauge=told.get("gauge", "")) for c in old.cables)
    house = new_house(told["name"], practice, errand)
    drawing = Drawing(
        {HOUSE: house, ROOM: Room("The room"), BOX: replace(old, holds=held, cables=cables, **fields)}
    )
    job = store.create(told["name"], drawing, user, "The box as found")
    for n, body in enumerate(told["readings"]):
        reading = read_reading(body, told["name"], as_found(drawing.get(BOX, OldBox)))
        records.keep(job, user, BOX, ReadingTaken(reading=reading), f"demo-reading-{n}")
    at = datetime.fromisoformat(told["begun"]) if "begun" in told else None
    known = plan_of(job, drawing)
    dead = {pair: (0.2, 0.2) for pair in pairs_of(known.nodes)}
    tasks = {t.id: t for t in known.tasks}
    for n, step in enumerate(told["steps"]):
        note, pairs = told.get("note", {}).get(step, ""), dead if step == "dead" else {}
        done = StepEvent(event="done", note=note, pairs=pairs)
        if at is not None:
            begun = StepEvent(event="begun", written=at, agreed=True, **reckoned_now(tasks[step], known))
            records.keep(job, user, f"step:{step}", begun, f"demo-begun-{n}")
            at += timedelta(minutes=told["took"][step])
            done = replace(done, written=at, agreed=True)
        records.keep(job, user, f"step:{step}", done, f"demo-step-{n}")
