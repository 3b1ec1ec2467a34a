"""The rules for inspecting a liquid limit device, and when an inspection lapses."""

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Literal

from pydantic import ConfigDict, Field

from vadum.soil.contract.compare import within
from vadum.soil.contract.fields import Number, RecordPart
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict

SOURCE = "ASTM D4318, AASHTO T 89: device check"


class CupInspection(RecordPart):
    """What is looked at on a cup device and its grooving tool. All of it is asked for."""

    model_config = ConfigDict(defer_build=False)  # it is a body of the interface, which is described at once

    drop_mm: Number = Field(title="drop height, gauge block against the worn spot")
    contact_spot_mm: Number = Field(title="widest contact spot on cup or base")
    cup_thickness_percent: Number = Field(title="thinnest cup wall, share of new")
    groove_felt: Literal["yes", "no"] = Field(title="a groove that a finger feels in the cup")
    feet_count: Number = Field(title="rubber feet on the base")
    tool_tip_mm: Number = Field(title="grooving tool, tip width")
    tool_depth_mm: Number = Field(title="grooving tool, depth")
    tape_removed: Literal["yes", "no"] = Field(title="tape off the cup again")
    rebound_percent: Number | None = Field(None, title="rebound of a steel ball from the base, share of its fall")
    cup_with_hanger_g: Number | None = Field(None, title="cup with its hanger")
    play_felt: Literal["yes", "no"] | None = Field(None, title="play at the cam or the pin")


def _within(rule: str, found: float, middle: float, tolerance: float, unit: str, field: str, remedy: str) -> Verdict:
    held = within(found, middle - tolerance, middle + tolerance)
    return Verdict(
        rule=rule,
        level="fine" if held else "redo",
        found=f"{plain(found)} {unit}",
        limit=f"{plain(middle)} ± {plain(tolerance)} {unit}",
        source=SOURCE,
        remedy="" if held else remedy,
        at=(field,),
    )


def _plainly(rule: str, held: bool, found: str, limit: str, field: str, remedy: str) -> Verdict:
    return Verdict(
        rule=rule,
        level="fine" if held else "redo",
        found=found,
        limit=limit,
        source=SOURCE,
        remedy="" if held else remedy,
        at=(field,),
    )


# Fairly sure: D4318 allows 10 mm on the base, T 89 13 mm. A device that serves both is held against the stricter.
MOST_SPOT_MM = 10.0
REBOUND_PERCENT, HANGER_G = (77.0, 90.0), (185.0, 215.0)  # ASTM D4318, fairly sure


def inspect_cup(seen: CupInspection, most_spot_mm: float = MOST_SPOT_MM) -> Iterator[Verdict]:
    """Every rule of the device check."""
    for rule, value, band, unit, field, remedy in (
        ("base rebounds", seen.rebound_percent, REBOUND_PERCENT, "%", "rebound_percent", "Replace the base."),
        ("cup with hanger", seen.cup_with_hanger_g, HANGER_G, "g", "cup_with_hanger_g", "Replace the cup or hanger."),
    ):
        if value is not None:
            middle, half = (band[0] + band[1]) / 2, (band[1] - band[0]) / 2
            yield _within(rule, value, middle, half, unit, field, remedy)
    if seen.play_felt is not None:
        held = seen.play_felt == "no"
        yield _plainly("no play at cam and pin", held, seen.play_felt, "no", "play_felt", "Replace the worn part.")
    yield _within("drop height", seen.drop_mm, 10.0, 0.2, "mm", "drop_mm", "Reset the drop with the gauge block.")
    yield _plainly(
        "contact spot",
        0 <= seen.contact_spot_mm <= most_spot_mm,
        f"{plain(seen.contact_spot_mm)} mm",
        f"{plain(most_spot_mm)} mm or less",
        "contact_spot_mm",
        "Turn or replace the base, or the cup.",
    )
    yield _plainly(
        "cup wall",
        seen.cup_thickness_percent >= 50,
        f"{plain(seen.cup_thickness_percent)} % of new",
        "50 % or more",
        "cup_thickness_percent",
        "Replace the cup.",
    )
    yield _plainly(
        "no groove in the cup", seen.groove_felt == "no", seen.groove_felt, "no", "groove_felt", "Replace the cup."
    )
    yield _plainly(
        "four feet", seen.feet_count == 4, plain(seen.feet_count), "4", "feet_count", "Replace the missing feet."
    )
    yield _within(
        "tool tip", seen.tool_tip_mm, 2.0, 0.1, "mm", "tool_tip_mm", "Replace the grooving tool; its tip is worn."
    )
    yield _within("tool depth", seen.tool_depth_mm, 10.0, 0.1, "mm", "tool_depth_mm", "Replace the grooving tool.")
    yield _plainly(
        "tape removed",
        seen.tape_removed == "yes",
        seen.tape_removed,
        "yes",
        "tape_removed",
        "Take the tape off the cup.",
    )


def lapses_on(inspected_on: date, interval_days: int) -> date:
    """The last day on which the inspection still holds.

    >>> lapses_on(date(2026, 1, 1), 90)
    datetime.date(2026, 4, 1)
    """
    return inspected_on + timedelta(days=interval_days)
