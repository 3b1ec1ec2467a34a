"""The rules that judge a bearing ratio in place."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.field_cbr.facts import Facts
from vadum.soil.methods.field_cbr.reaction import lifted, plan, plateau
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.checks import SHARED
from vadum.soil.shared.bearing.ends import all_found
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible

SETTING = "laboratory setting"
WATER = ("water_content_percent",)


def masses_obey_physics(facts: Facts, school: SpotSchool) -> Iterator[Verdict]:
    """Loads and masses are numbers that can be."""
    record = facts.record
    yield from possible(
        [
            ("axle_kn", "axle load", record.axle_kn),
            ("expected_percent", "expected ratio", record.expected_percent),
        ],
        strictly=True,
        unit="",
        affects=("lifts_at_percent", "reaction_wanted_kn"),
    )
    for i, tin in enumerate(record.tins):
        for verdict in masses_possible(tin.mass_tin_g, tin.mass_wet_g, tin.mass_dry_g, f"tins[{i}].", f"tin {i + 1}"):
            yield verdict.model_copy(update={"affects": WATER})


def reaction_enough(facts: Facts, school: SpotSchool) -> Iterator[Verdict]:
    """The rear axle gives what the push will want, less a margin; told before leaving."""
    record = facts.record
    its = plan(record, school)
    if its.wants_kn is None or its.gives_kn is None or its.lifts_percent is None:
        return
    yield ruling(
        "reaction enough",
        its.wants_kn <= its.gives_kn,
        f"wants {plain(its.wants_kn, 3)} kN; lifts at a ratio of about {its.lifts_percent:.0f} %",
        f"{plain(its.gives_kn, 3)} kN: the axle less {plain(school.reaction_margin_percent)} %",
        SETTING,
        "Take a heavier vehicle or load it; else the curve ends early.",
        ("axle_kn",),
        otherwise="watch",
    )


def springs_raised(facts: Facts, school: SpotSchool) -> Iterator[Verdict]:
    """The rear stands on its stands, clear of its springs, so that they do not feed the plunger."""
    record = facts.record
    if record.springs is None and record.stands is None:
        return
    held = record.springs != "still bear" and record.stands != "not yet"
    yield ruling(
        "vehicle on its stands, clear of its springs",
        held,
        f"suspension {record.springs or 'not noted'}, stands {record.stands or 'not noted'}",
        "raised clear; stands bear",
        "BS 1377-9",
        "Raise it until the springs hang free, set it down on rated stands, trolley jack out.",
        ("springs", "stands"),
    )


def datum_far_enough(facts: Facts, school: SpotSchool) -> Iterator[Verdict]:
    """The datum beam's legs stand outside the loaded ground."""
    record = facts.record
    if known(record.datum_legs_mm):
        yield ruling(
            "datum legs outside the loaded ground",
            record.datum_legs_mm >= school.least_datum_mm,
            f"{plain(record.datum_legs_mm)} mm",
            f"{plain(school.least_datum_mm)} mm",
            SETTING,
            "Move the legs out: ground that sinks with the plunger hides penetration.",
            ("datum_legs_mm",),
            otherwise="watch",
        )


def reaction_held(facts: Facts, school: SpotSchool) -> Iterator[Verdict]:
    """The force went on rising; one that stands still while the vehicle moves is the vehicle's weight."""
    record = facts.record
    for found in all_found(record, school):
        flat = plateau(record, found, school)
        if len(found.points) < 4:
            continue
        lifts = flat is not None and lifted(flat, plan(record, school).gives_kn, school)
        said = (
            f"force stands at {plain(flat.force_kn, 3)} kN from reading {flat.row + 1}" if flat else "the force rises"
        )
        if flat is not None and flat.vehicle_mm is not None:
            said += f", vehicle moved {plain(flat.vehicle_mm, 2)} mm"
        known_lift = record.stopped == "reaction lifted"
        yield ruling(
            "reaction held",
            not lifts and not known_lift,
            "stopped: the reaction lifted" if known_lift and not lifts else said,
            f"no standstill over {plain(school.plateau_mm)} mm with the vehicle moving",
            "BS 1377-9",
            "The vehicle was weighed, not the ground: report what was reached before, or repeat with more load.",
            ("stopped",),
            otherwise="watch" if known_lift else "redo",
        )


def ring_back_at_zero(facts: Facts, school: SpotSchool) -> Iterator[Verdict]:
    """The ring came back to where it began when the load was taken off."""
    record = facts.record
    if not known(record.ring_after_div):
        return
    yield ruling(
        "ring back at its zero",
        abs(record.ring_after_div) <= school.most_ring_back_div,
        f"{plain(record.ring_after_div)} divisions",
        f"± {plain(school.most_ring_back_div)} divisions",
        SETTING,
        "The ring was bent or its gauge moved: check it against its calibration before it is used again.",
        ("ring_after_div",),
        otherwise="watch",
    )


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    reaction_enough,
    springs_raised,
    datum_far_enough,
    reaction_held,
    ring_back_at_zero,
    balance_in_date,
    *SHARED,
)
