"""Fields of a form, read or refused in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fjeld.drawing.edits import EditRefused
from fjeld.drawing.extents import clean
from fjeld.practice.kinds import KG_PER_LB
from fjeld.quantities import Unit, finite_number, whole_number


def need(form: Mapping[str, Any], name: str) -> str:
    """A field of the form without what nobody can see; refused in words when it is missing or empty."""
    value = given(form, name)
    if not value:
        raise EditRefused(f"“{name}” was left empty")
    return value


def given(form: Mapping[str, Any], name: str) -> str:
    """A field of the form without what nobody can see; empty when it is missing."""
    return clean(str(form.get(name) or ""))


def whole(form: Mapping[str, Any], name: str) -> int:
    """A field as a whole number."""
    value = need(form, name)
    found = whole_number(value)
    if found is None:
        raise EditRefused(f"“{value[:40]}” is not a whole number")
    return found


def weight(typed: str, unit: Unit) -> float:
    """A weight in kg: a bare number is pounds in feet-and-inches drawings, kilograms in others."""
    plain, _, said = typed.replace(",", ".").lower().replace("kg", " kg").replace("lb", " lb").partition(" ")
    value = finite_number(plain)
    if value is None or value < 0:
        raise EditRefused(f"“{typed[:40]}” is not a weight; write it like 12 lb or 5.4 kg")
    pounds = said.strip().startswith("lb") or (not said.strip() and unit == "ft-in")
    return round(value * KG_PER_LB, 3) if pounds else value


def shown_weight(kg: float | None, unit: Unit) -> str:
    """A weight as a practice has it; empty where nobody has weighed."""
    return "" if kg is None else f"{kg:.4g} kg" if unit == "mm" else f"{kg / KG_PER_LB:.4g} lb"


def number(form: Mapping[str, Any], name: str) -> float:
    """A field as a coordinate in mm, such as a drag sends."""
    found = finite_number(given(form, name))
    if found is None and given(form, name).lower().lstrip("+-") in ("inf", "infinity", "nan"):
        raise EditRefused("that place is outside any house")
    if found is None:
        raise EditRefused(f"“{given(form, name)[:40]}” is not a place")
    if not -1e6 < found < 1e6:
        raise EditRefused("that place is outside any house")
    return found
