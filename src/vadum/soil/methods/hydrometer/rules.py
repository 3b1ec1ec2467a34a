"""The rules that judge a hydrometer analysis."""

import itertools
from collections.abc import Iterator

from vadum.soil.contract.called import minutes_words as words
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.times import span
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.hydrometer.facts import Facts
from vadum.soil.methods.hydrometer.record import Record
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import (
    corrections,
    dry_mass_g,
    elapsed_min,
    reads_sg,
    settled,
    stem_field,
    stem_reading,
)
from vadum.soil.methods.hydrometer.timing import taken_by_time
from vadum.soil.shared.physics import WATER_RANGE_C
from vadum.soil.shared.water_by_tin import balance_in_date

# Slack for the stem's division, of about half a point each; laboratory settings.
MOST_FINER_PERCENT, MOST_RISE_POINTS = 100.5, 0.75


def readings_possible(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """Readings on the stem, temperatures of water, masses; nothing read before the cylinder stood."""
    record = facts.record
    fields = type(record).model_fields
    for name in ("mass_taken_g", "mass_dry_g"):
        yield from possible([(name, str(fields[name].title), getattr(record, name))], strictly=True, high=500, unit="g")
    yield from possible(
        [("air_dry_water_percent", "its water content", record.air_dry_water_percent)], high=100, unit="%"
    )
    yield from possible(
        [("passing_percent", "share that passed", record.passing_percent)], strictly=True, high=100, unit="%"
    )
    gravity = record.specific_gravity_ratio
    yield from possible([("specific_gravity_ratio", "specific gravity", gravity)], low=1.5, high=6)
    low, high = (0.985, 1.065) if reads_sg(record) else (-10.0, 65.0)
    t_low, t_high = WATER_RANGE_C
    stem = stem_field(record)
    for name in ("blanks", "readings"):
        for i, row in enumerate(getattr(record, name)):
            at, said = f"{name}[{i}].", f"{name[:-1]} {i + 1}"
            yield from possible([(f"{at}{stem}", said, getattr(row, stem))], low=low, high=high)
            temperature = (f"{at}temperature_c", f"{said}: temperature", row.temperature_c)
            yield from possible([temperature], low=t_low, high=t_high, unit="°C")
    for i, reading in enumerate(record.readings):
        minutes = elapsed_min(record, reading)
        if minutes is not None and (not known(minutes) or minutes <= 0):
            yield Verdict(
                rule="a reading comes after the cylinder is set down",
                level="stop",
                found=f"reading {i + 1}: {plain(minutes)} min",
                limit="more than 0 min",
                source="physics",
                remedy="Look at time zero and at this reading's time; strike the wrong one.",
                at=(f"readings[{i}].{stem_field(record)}",),
            )


def on_time(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """A reading off its time is kept and used with its true time; the schedule's spacing suffers, not the point."""
    record = facts.record
    taken = taken_by_time(record, school)
    off = []
    for t, (row, minutes) in taken.items():
        seconds = (minutes - t) * 60
        if abs(seconds) > school.window_s(t) + 0.5:
            off.append(t)
            word = "late" if seconds > 0 else "early"
            yield ruling(
                "readings on time",
                False,
                f"{words(t)}: {span(abs(seconds) / 60)} {word}",
                f"± {span(school.window_s(t) / 60)}",
                school.standard,
                "Kept with its true time, which the diameter uses.",
                (f"readings[{row}].read_at",),
                otherwise="watch",
            )
    if taken and not off:
        yield ruling("readings on time", True, f"{len(taken)} readings", "within their windows", school.standard, "")


def none_passed_over(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """Scheduled readings that were never taken."""
    record = facts.record
    taken = taken_by_time(record, school)
    newest = max(taken, default=-1.0)
    gone = [t for t in school.schedule_min if t < newest and t not in taken]
    if taken:
        yield ruling(
            "no reading passed over",
            not gone,
            f"missing at {', '.join(words(t) for t in gone)}" if gone else f"{len(taken)} of {len(taken)} so far",
            "every scheduled time",
            school.standard,
            "The curve is drawn without it; start again if its size matters.",
            ("readings",),
            otherwise="watch",
        )


def put_in_in_time(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """Too short and it still bobs; too long and grains settle on it."""
    record = facts.record
    limit = f"{school.least_lead_s} to {school.most_lead_s} s before"
    good = 0
    for i, row in enumerate(record.readings):
        minutes = elapsed_min(record, row)
        left_in = minutes is not None and minutes <= school.left_in_min + 0.05
        if row.inserted_at is None or row.read_at is None or left_in:
            continue
        seconds = (row.read_at - row.inserted_at).total_seconds()
        if school.least_lead_s <= seconds <= school.most_lead_s:
            good += 1
            continue
        yield ruling(
            "hydrometer in for the right time",
            False,
            f"reading {i + 1}: {seconds:.0f} s before",
            limit,
            school.standard,
            "Next time about half a minute before, gently; then out with a slight spin.",
            (f"readings[{i}].inserted_at",),
            otherwise="watch",
        )
    if good:
        yield ruling("hydrometer in for the right time", True, f"{good} readings", limit, school.standard, "")


def finer_is_possible(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """No more than all is in suspension, and never more than before."""
    record = facts.record
    rows = [s for s in settled(record, school) if s.counts]
    if not rows:
        return
    top = max(rows, key=lambda s: s.finer_percent)
    yield ruling(
        "no more than all in suspension",
        top.finer_percent <= MOST_FINER_PERCENT,
        f"{plain(top.finer_percent, 4)} % at {words(round(top.elapsed_min, 1))}",
        "100 %",
        "physics",
        "Recheck the dry mass, the blank and the specific gravity.",
        (f"readings[{top.row}].{stem_field(record)}",),
    )
    rising = [(a, b) for a, b in itertools.pairwise(rows) if b.finer_percent > a.finer_percent + MOST_RISE_POINTS]
    for a, b in rising:
        yield ruling(
            "less in suspension with time",
            False,
            f"{plain(a.finer_percent, 3)} % then {plain(b.finer_percent, 3)} %",
            "falling",
            "physics",
            "A reading or a temperature is wrong, or the cylinder was stirred.",
            (f"readings[{b.row}].{stem_field(record)}",),
        )
    if len(rows) > 1 and not rising:
        yield ruling("less in suspension with time", True, f"{len(rows)} readings", "falling", "physics", "")


def temperature_steady(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """A drifting room stirs the cylinder and changes the water."""
    record = facts.record
    read = [r.temperature_c for r in record.readings if known(r.temperature_c)]
    if len(read) < 2:
        return
    drift = max(read) - min(read)
    held = drift <= school.watch_drift_c + 1e-9
    yield ruling(
        "temperature steady",
        held,
        f"{plain(drift, 2)} °C between readings",
        f"{plain(school.watch_drift_c)} °C; repeat above {plain(school.most_drift_c)} °C",
        school.standard,
        "Stand the cylinders in a water bath, away from sun and draught.",
        ("readings",),
        otherwise="watch" if drift <= school.most_drift_c + 1e-9 else "redo",
    )


def blanks_span_the_test(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """The correction is read between the blanks' temperatures, not beyond."""
    record = facts.record
    found = corrections(record)
    read = [r.temperature_c for r in record.readings if known(r.temperature_c)]
    if not found or not read:
        return
    low, high = found[0][0], found[-1][0]
    beyond = max(low - min(read), max(read) - high, 0.0)
    yield ruling(
        "blanks span the test's temperatures",
        beyond <= 0.05,
        f"readings {plain(min(read), 3)} to {plain(max(read), 3)} °C, blanks {plain(low, 3)} to {plain(high, 3)} °C",
        f"within; repeat beyond {plain(school.most_beyond_blank_c)} °C",
        school.standard,
        "Take another blank at the missing temperature.",
        ("blanks",),
        otherwise="watch" if beyond <= school.most_beyond_blank_c else "redo",
    )


def gravity_measured(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """Diameter and percentage both lean on the specific gravity."""
    record = facts.record
    if record.specific_gravity_ratio is None or record.specific_gravity_from is None:
        return
    yield ruling(
        "specific gravity measured",
        record.specific_gravity_from == "measured",
        f"{plain(record.specific_gravity_ratio)}, {record.specific_gravity_from}",
        "measured on this soil",
        school.standard,
        "0.05 more makes the percentages about 1 % less: measure it where that matters.",
        ("specific_gravity_from",),
        otherwise="watch",
    )


def solution_fresh(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """Hexametaphosphate turns back to plain phosphate in weeks."""
    record = facts.record
    if record.dispersant_made_on is None or record.tested_on is None:
        return
    days = (record.tested_on - record.dispersant_made_on).days
    yield ruling(
        "dispersant solution fresh",
        0 <= days <= school.most_solution_days,
        f"{days} days old",
        f"{school.most_solution_days} days",
        school.standard,
        "Make a new solution; look for flocs in the cylinder.",
        ("dispersant_made_on",),
        otherwise="watch",
    )


def mass_suits(facts: Facts, school: HydrometerSchool) -> Iterator[Verdict]:
    """Too little reads badly, too much hinders its own settling."""
    record = facts.record
    mass = dry_mass_g(record)
    if mass is not None:
        low, high = school.mass_band_g
        yield ruling(
            "soil in the cylinder",
            low <= mass <= high,
            f"{plain(mass)} g dry",
            f"{plain(low)} to {plain(high)} g in a litre",
            school.standard,
            "About 50 g of clay, 65 to 100 g of sandy soil.",
            ("mass_dry_g",),
            otherwise="watch",
        )


def readings_used(record: Record) -> int:
    """How many readings stand on the tape."""
    return sum(stem_reading(r, record) is not None for r in record.readings)


RULES: tuple[Judge, ...] = (
    readings_possible,
    finer_is_possible,
    on_time,
    none_passed_over,
    put_in_in_time,
    temperature_steady,
    blanks_span_the_test,
    gravity_measured,
    solution_fresh,
    mass_suits,
    balance_in_date,
)
