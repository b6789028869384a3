"""Every rule there is, declared once with the kind of its value.

The data of a practice give a rule its value, basis and reason; here stands what is asked of
it by name, so that a mistyped one cannot be asked for. A :func:`rule` is looked at by a check
and can be found unmet; what is :func:`given` is gone by, in deriving or within another rule,
and nothing is found by it alone.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Generic, TypeVar, overload

from fjeld.practice.kinds import (
    AMPS,
    AREA,
    COUNT,
    CUBIC_INCHES,
    CURVE,
    DEGREES,
    DIGIT,
    FLAG,
    HEAT,
    KILOGRAMS,
    LENGTH,
    LUX,
    MINUTES,
    NAMES,
    OHMS,
    PARTS,
    PERCENT,
    SHARE,
    VOLT_AMPERES,
    WORD,
    YES,
    Kind,
    each,
    several,
)

T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)


@dataclass(frozen=True)
class RuleKey(Generic[T_co]):
    """A rule's name and the kind of its value; ``looked_at`` by a check of its own."""

    id: str
    kind: Kind[T_co]
    looked_at: bool

    def __repr__(self) -> str:
        return f"<rule {self.id}>"


#: All that is declared, by name.
DECLARED: dict[str, RuleKey[Any]] = {}


def _declared(key: RuleKey[T]) -> RuleKey[T]:
    if DECLARED.setdefault(key.id, key) is not key:
        raise ValueError(f"rule “{key.id}” is declared twice")
    return key


@overload
def rule(name: str) -> RuleKey[None]: ...
@overload
def rule(name: str, kind: Kind[T]) -> RuleKey[T]: ...
def rule(name: str, kind: Kind[Any] = YES) -> RuleKey[Any]:
    """A rule that a check looks at."""
    return _declared(RuleKey(name, kind, True))


@overload
def given(name: str) -> RuleKey[None]: ...
@overload
def given(name: str, kind: Kind[T]) -> RuleKey[T]: ...
def given(name: str, kind: Kind[Any] = YES) -> RuleKey[Any]:
    """A figure that is gone by: nothing is found by it alone."""
    return _declared(RuleKey(name, kind, False))


# --- looked at by a check ---

ACCESSIBLE_HEIGHT = rule("accessible-height", several(LENGTH, LENGTH))
ALARM_BATH = rule("alarm-bath", LENGTH)
ALARM_BEHIND = rule("alarm-behind")
ALARM_COOKING = rule("alarm-cooking", each(LENGTH))
ALARM_GAS = rule("alarm-gas", NAMES)
ALARM_GAS_ROOM = rule("alarm-gas-room", NAMES)
ALARM_HEAT = rule("alarm-heat", NAMES)
ALARM_LINKED = rule("alarm-linked", COUNT)
ALARM_LINKED_ALL = rule("alarm-linked-all", COUNT)
ALARM_OUTSIDE = rule("alarm-outside")
ALARM_ROOMS = rule("alarm-rooms", NAMES)
ALARM_STOREY = rule("alarm-storey")
ALARM_WALL = rule("alarm-wall", LENGTH)
ARC_FAULT = rule("arc-fault", NAMES)
BASIN_OUTLET = rule("basin-outlet", LENGTH)
BATH_LIGHT = rule("bath-light", NAMES)
BATH_ZONES = rule("bath-zones", several(LENGTH, LENGTH, LENGTH))
BEHIND_DOOR = rule("behind-door")
BODY_FITS = rule("body-fits")
BOXES_APART = rule("boxes-apart")
BOX_CABLES = rule("box-cables")
BOX_FILL = rule("box-fill", each(CUBIC_INCHES))
BOX_GANGS = rule("box-gangs")
BOX_RESERVE = rule("box-reserve", COUNT)
BREAKER_FEEDS = rule("breaker-feeds", each(AMPS))
DIMMER_LOADS = rule("dimmer-loads", NAMES)
ROOM_USED = rule("room-used")
BATH_DRAWN = rule("bath-drawn")
OUTDOOR_BOX = rule("outdoor-box", NAMES)
ALARM_FAMILIES = rule("alarm-families")
BREAKER_GAUGE = rule("breaker-gauge", each(AMPS))
CABLE_CONDUCTORS = rule("cable-conductors")
CABLE_ZONES = rule("cable-zones", LENGTH)
CIRCUIT_FED = rule("circuit-fed")
CIRCUIT_LOAD = rule("circuit-load", SHARE)
CLEAR_OF_BODIES = rule("clear-of-bodies", LENGTH)
CLEAR_OF_FRAMING = rule("clear-of-framing", LENGTH)
CLOSET_LIGHT = rule("closet-light", several(LENGTH, LENGTH))
CONTROL_COMPLETE = rule("control-complete")
CONTROL_PROVEN = rule("control-proven")
COUNTER_REACH = rule("counter-reach", LENGTH)
CUT_IN_CLEAR = rule("cut-in-clear", LENGTH)
DEDICATED_CIRCUIT = rule("dedicated-circuit", each(WORD))
DIAGONAL_AGREES = rule("diagonal-agrees", LENGTH)
END_OF_RUN_BOX = rule("end-of-run-box", COUNT)
ENGINEERED_HOLE = rule("engineered-hole")
FAN_BLADES = rule("fan-blades", LENGTH)
FAN_BOX = rule("fan-box", several(KILOGRAMS, KILOGRAMS))
FAN_CLEAR = rule("fan-clear", LENGTH)
FAN_READY = rule("fan-ready", NAMES)
FINISHED_BOX = rule("finished-box")
FINISHED_SURFACE = rule("finished-surface")
FIXTURE_WEIGHT = rule("fixture-weight", KILOGRAMS)
FOYER_OUTLET = rule("foyer-outlet", AREA)
FRAMING_PLAUSIBLE = rule("framing-plausible", several(LENGTH, LENGTH))
FREE_CONDUCTOR = rule("free-conductor", LENGTH)
GARAGE_BAYS = rule("garage-bays", LENGTH)
GROUND_FAULT = rule("ground-fault", NAMES)
HALL_OUTLET = rule("hall-outlet", LENGTH)
HEIGHTS_MATCH = rule("heights-match", LENGTH)
INSIDE_ROOM = rule("inside-room")
JOINT_CONNECTOR = rule("joint-connector")
JOIST_HOLE = rule("joist-hole", several(SHARE, LENGTH))
KITCHEN_CIRCUITS = rule("kitchen-circuits", COUNT)
LIGHT_BEHIND = rule("light-behind")
LIGHT_WANTED = rule("light-wanted", each(LUX))
LOAD_SIDE_THERE = rule("load-side-there")
MEASURED = rule("measured")
NAIL_ON_FACE = rule("nail-on-face", LENGTH)
NEUTRAL_AT_SWITCH = rule("neutral-at-switch", NAMES)
NO_LOOPS = rule("no-loops")
ONE_HOME_RUN = rule("one-home-run", COUNT)
ONE_SIDE = rule("one-side")
OPENING_FITS = rule("opening-fits")
OUTDOOR_OUTLET_HEIGHT = rule("outdoor-outlet-height", LENGTH)
OUTLETS_PER_CIRCUIT = rule("outlets-per-circuit", each(COUNT))
OUTLET_HEIGHT_LIMIT = rule("outlet-height-limit", LENGTH)
OUTLET_REACH = rule("outlet-reach", LENGTH)
PANEL_CLEAR = rule("panel-clear", several(LENGTH, LENGTH))
PANEL_PLACE = rule("panel-place", NAMES)
PANEL_WAYS = rule("panel-ways")
PENDANT_CLEAR = rule("pendant-clear", LENGTH)
PROTECTIVE_WHOLE = rule("protective-whole")
REACHABLE = rule("reachable")
RECESSED_INSULATED = rule("recessed-insulated")
RESIDUAL = rule("residual", AMPS)
RING_BREAKER = rule("ring-breaker", AMPS)
RING_CAPACITY = rule("ring-capacity", AMPS)
RING_CLOSED = rule("ring-closed")
RING_SPUR = rule("ring-spur")
ROOMS_APART = rule("rooms-apart")
ROOMS_FIT = rule("rooms-fit", LENGTH)
ROOM_CLOSES = rule("room-closes", PERCENT)
ROOM_OUTLET = rule("room-outlet", NAMES)
ROOM_SIMPLE = rule("room-simple")
ROW_CLEARANCE = rule("row-clearance", LENGTH)
SECOND_LEG = rule("second-leg")
SHARED_NEUTRAL = rule("shared-neutral")
SHEET_BLANK = rule("sheet-blank")
SOURCE_BREAKER = rule("source-breaker")
SOURCE_GROUND = rule("source-ground")
SOURCE_LINE = rule("source-line")
SOURCE_LOAD = rule("source-load")
SOURCE_NEUTRAL = rule("source-neutral")
SOURCE_PROTECTED = rule("source-protected")
SOURCE_STATE = rule("source-state")
STAIRS_SWITCHED = rule("stairs-switched")
STUD_HOLE = rule("stud-hole", SHARE)
STUD_HOLE_EDGE = rule("stud-hole-edge", LENGTH)
STUD_HOLE_OTHER = rule("stud-hole-other", SHARE)
SWITCHED_LIGHT = rule("switched-light", NAMES)
SWITCH_HANDLE = rule("switch-handle", LENGTH)
SWITCH_LATCH = rule("switch-latch", LENGTH)
SWITCH_TUB = rule("switch-tub")
TUB_FITTING = rule("tub-fitting", several(LENGTH, LENGTH))
TUB_OUTLET = rule("tub-outlet", several(LENGTH, LENGTH))
TUB_RATING = rule("tub-rating", LENGTH)
VOID_DEPTH = rule("void-depth")
VOLT_DROP = rule("volt-drop", PERCENT)
VOLT_DROP_OTHER = rule("volt-drop-other", PERCENT)
WALLS_FACE = rule("walls-face")
WET_RATING = rule("wet-rating")
ZONE_RATING = rule("zone-rating")
OUTDOOR_SEALED = rule("outdoor-sealed", several(DIGIT, DIGIT))

# --- gone by ---

WALL_LIGHT_WEIGHT = given("wall-light-weight", KILOGRAMS)
ARC_FAULT_SIMILAR = given("arc-fault-similar", NAMES)
BATH_SEALED = given("bath-sealed", several(DIGIT, DIGIT, DIGIT))
CABLES_PER_STAPLE = given("cables-per-staple", COUNT)
CABLE_ALLOWANCE = given("cable-allowance", several(LENGTH, LENGTH))
CABLE_SLACK = given("cable-slack", SHARE)
CAPACITY_BY_WAY = given("capacity-by-way", each(each(AMPS)))
DEAD_TEST_LASTS = given("dead-test-lasts", MINUTES)
COUNTER_OUTLET_ABOVE = given("counter-outlet-above", LENGTH)
COUNTER_WIDTH = given("counter-width", LENGTH)
CUT_STEP = given("cut-step", LENGTH)
DEDICATED_BREAKER = given("dedicated-breaker", AMPS)
DRILL_BELOW = given("drill-below", LENGTH)
DRILL_HEIGHT = given("drill-height", LENGTH)
FIRE_STOP = given("fire-stop")
FIRST_SUPPORT = given("first-support", LENGTH)
FIRST_SUPPORT_UNCLAMPED = given("first-support-unclamped", LENGTH)
FOYER_WALL = given("foyer-wall", LENGTH)
FURRING = given("furring", LENGTH)
GARAGE_BAY = given("garage-bay", LENGTH)
GROUND_FAULT_WATER = given("ground-fault-water", LENGTH)
GROUND_FILL = given("ground-fill", WORD)
HOLE_EDGE = given("hole-edge", LENGTH)
HOLE_SIZE = given("hole-size", several(LENGTH, LENGTH))
IN_WALL = given("in-wall", LENGTH)
LIGHT_ESTIMATE = given("light-estimate", VOLT_AMPERES)
LOAD_ESTIMATE = given("load-estimate", each(VOLT_AMPERES))
OUTLET_DESIGN = given("outlet-design", SHARE)
OUTLET_ESTIMATE = given("outlet-estimate", VOLT_AMPERES)
OUTLET_HEIGHT = given("outlet-height", LENGTH)
OUTLET_HEIGHT_BY_USE = given("outlet-height-by-use", each(LENGTH))
OUTLET_ROOMS = given("outlet-rooms", NAMES)
PLAN_SHARE = given("plan-share", SHARE)
RESIDUAL_TRIP = given("residual-trip", AMPS)
RING_GAUGE = given("ring-gauge", WORD)
SHOWER_TRAY = given("shower-tray", LENGTH)
SHOWER_WITHOUT_TRAY = given("shower-without-tray", LENGTH)
SUPPLY_LOOP = given("supply-loop", OHMS)
SUPPORT_INTERVAL = given("support-interval", LENGTH)
SUPPORT_INTERVAL_UPRIGHT = given("support-interval-upright", LENGTH)
SUPPORT_INTERVAL_WIDE = given("support-interval-wide", LENGTH)
SUPPORT_IN_VOIDS = given("support-in-voids", FLAG)
SUPPORT_WIDE = given("support-wide", LENGTH)
SWITCH_HEIGHT = given("switch-height", LENGTH)
TRIP_CURVE = given("trip-curve", CURVE)
USUAL_FAN = given("usual-fan", several(LENGTH, LENGTH))
VEHICLE_DOOR = given("vehicle-door", LENGTH)
WALL_SPACE = given("wall-space", LENGTH)
ZONE_ALONG = given("zone-along", LENGTH)
ZONE_THROUGH = given("zone-through", LENGTH)

# --- gone by where things stay closed ---

AIR_ABOVE = given("air-above", LENGTH)
ARC_FAULT_SHORT = given("arc-fault-short", LENGTH)
ATTIC_DRILL = given("attic-drill", several(LENGTH, LENGTH))
BIT_BEYOND = given("bit-beyond", LENGTH)
BOARD_THICK = given("board-thick", LENGTH)
BOX_SETBACK = given("box-setback", LENGTH)
CABLE_ENTRY = given("cable-entry", several(LENGTH, LENGTH))
CHASE_PARTS = given("chase-parts", several(PARTS, PARTS))
CONDUIT_BENDS = given("conduit-bends", DEGREES)
CONDUIT_GROUND = given("conduit-ground", several(LENGTH, AMPS))
CONDUIT_WIRES = given("conduit-wires", each(COUNT))
CONNECTOR_WIRE = given("connector-wire", several(LENGTH, LENGTH))
CORE_DRILL = given("core-drill", LENGTH)
CORE_PITCH = given("core-pitch", SHARE)
DIMMER_FINS = given("dimmer-fins", several(SHARE, SHARE))
EDGE_FOUND = given("edge-found", each(LENGTH))
ELECTRONIC_ROOM = given("electronic-room", CUBIC_INCHES)
FISHED_HOLE = given("fished-hole", LENGTH)
FLOOR_PLATE = given("floor-plate", LENGTH)
GAP_CLOSED = given("gap-closed", several(LENGTH, LENGTH))
HEAT_THROUGH = given("heat-through", each(HEAT))
JAMB_WOOD = given("jamb-wood", LENGTH)
LEAST_PIECE = given("least-piece", LENGTH)
LONG_BLIND = given("long-blind", LENGTH)
MEMBER_THICK = given("member-thick", LENGTH)
NEUTRAL_DROP = given("neutral-drop", several(SHARE, SHARE))
NOTCH_BEARING = given("notch-bearing", SHARE)
NOTCH_OTHER = given("notch-other", SHARE)
OUTLET_SINK = given("outlet-sink", LENGTH)
PENCIL_MARK = given("pencil-mark", LENGTH)
PILOT_BIT = given("pilot-bit", several(LENGTH, LENGTH))
PAST_FACE = given("past-face", LENGTH)
PATCH_PIECE = given("patch-piece", several(LENGTH, LENGTH))
PLATE_DEEP = given("plate-deep", LENGTH)
PLATE_HOLE = given("plate-hole", LENGTH)
PULL_BLIND = given("pull-blind", LENGTH)
PULL_END = given("pull-end", LENGTH)
PULL_STEP = given("pull-step", LENGTH)
RING_BIT = given("ring-bit", LENGTH)
SAW_HOLE = given("saw-hole", LENGTH)
SCREW_TAKES = given("screw-takes", COUNT)
SHEATH_INSIDE = given("sheath-inside", LENGTH)
SOUNDING_ERROR = given("sounding-error", LENGTH)
TOP_PLATES = given("top-plates", LENGTH)
WALL_STRIP = given("wall-strip", LENGTH)
WIDE_OPENING = given("wide-opening", LENGTH)
