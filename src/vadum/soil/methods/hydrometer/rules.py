"""The rules that judge a hydrometer analysis."""

import itertools
from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.called import minutes_words
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import PHYSICS, Judge, Rule, Seen, said, within
from vadum.soil.contract.times import span
from vadum.soil.methods.hydrometer.facts import Facts
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import Settled, elapsed_min, stem_field
from vadum.soil.shared.water_by_tin import balance_in_date

# Slack for the stem's division, of about half a point each; laboratory settings.
MOST_FINER_PERCENT, MOST_RISE_POINTS = 100.5, 0.75
SLACK_S = 0.5  # a reading is noted to the second
LEFT_IN_SLACK_MIN = 0.05
BEYOND_C = 0.05  # a thermometer reads to a tenth


def _temperatures(f: Facts) -> list[float]:
    return [r.temperature_c for r in f.record.readings if known(r.temperature_c)]


def _counting(f: Facts) -> list[Settled]:
    return [s for s in f.settled if s.counts]


def _after_zero(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    for i, row in enumerate(f.record.readings):
        minutes = elapsed_min(f.record, row)
        if minutes is not None and (not known(minutes) or minutes <= 0):
            at = (f"readings[{i}].{stem_field(f.record)}",)
            yield Seen(False, f"reading {i + 1}: {plain(minutes)} min", "more than 0 min", at)


def _all_in_suspension(f: Facts, s: HydrometerSchool) -> Seen | None:
    rows = _counting(f)
    if not rows:
        return None
    top = max(rows, key=lambda r: r.finer_percent)
    held = compare.at_most(top.finer_percent, MOST_FINER_PERCENT)
    found = f"{plain(top.finer_percent, 4)} % at {minutes_words(round(top.elapsed_min, 1))}"
    return said(held, found, "100 %", (f"readings[{top.row}].{stem_field(f.record)}",))


def _less_with_time(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    rows = _counting(f)
    rising = [(a, b) for a, b in itertools.pairwise(rows) if b.finer_percent > a.finer_percent + MOST_RISE_POINTS]
    for a, b in rising:
        words = f"{plain(a.finer_percent, 3)} % then {plain(b.finer_percent, 3)} %"
        yield Seen(False, words, "falling", (f"readings[{b.row}].{stem_field(f.record)}",))
    if len(rows) > 1 and not rising:
        yield Seen(True, f"{len(rows)} readings", "falling")


def _on_time(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    off = 0
    for t, (row, minutes) in f.taken.items():
        seconds = (minutes - t) * 60
        if abs(seconds) > s.window_s(t) + SLACK_S:
            off += 1
            words = f"{minutes_words(t)}: {span(abs(seconds) / 60)} {'late' if seconds > 0 else 'early'}"
            yield Seen(False, words, f"± {span(s.window_s(t) / 60)}", (f"readings[{row}].read_at",))
    if f.taken and not off:
        yield Seen(True, f"{len(f.taken)} readings", "within their windows")


def _passed_over(f: Facts, s: HydrometerSchool) -> Seen | None:
    if not f.taken:
        return None
    newest = max(f.taken)
    gone = [t for t in s.schedule_min if t < newest and t not in f.taken]
    words = f"missing at {', '.join(map(minutes_words, gone))}" if gone else f"{len(f.taken)} of {len(f.taken)} so far"
    return said(not gone, words, "every scheduled time")


def _put_in(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    """Too short and it still bobs; too long and grains settle on it."""
    limit, good = f"{s.least_lead_s} to {s.most_lead_s} s before", 0
    for i, row in enumerate(f.record.readings):
        minutes = elapsed_min(f.record, row)
        left_in = minutes is not None and minutes <= s.left_in_min + LEFT_IN_SLACK_MIN
        if row.inserted_at is None or row.read_at is None or left_in:
            continue
        seconds = (row.read_at - row.inserted_at).total_seconds()
        if s.least_lead_s <= seconds <= s.most_lead_s:
            good += 1
        else:
            yield Seen(False, f"reading {i + 1}: {seconds:.0f} s before", limit, (f"readings[{i}].inserted_at",))
    if good:
        yield Seen(True, f"{good} readings", limit)


def _steady(f: Facts, s: HydrometerSchool) -> Seen | None:
    read = _temperatures(f)
    if len(read) < 2:
        return None
    drift = max(read) - min(read)
    limit = f"{plain(s.watch_drift_c)} °C; repeat above {plain(s.most_drift_c)} °C"
    level: Level = "watch" if compare.at_most(drift, s.most_drift_c) else "redo"
    held = compare.at_most(drift, s.watch_drift_c)
    return said(held, f"{plain(drift, 2)} °C between readings", limit, level=level)


def _spanned(f: Facts, s: HydrometerSchool) -> Seen | None:
    read = _temperatures(f)
    if not f.corrections or not read:
        return None
    low, high = f.corrections[0][0], f.corrections[-1][0]
    beyond = max(low - min(read), max(read) - high, 0.0)
    found = f"readings {plain(min(read), 3)} to {plain(max(read), 3)} °C, blanks {plain(low, 3)} to {plain(high, 3)} °C"
    limit = f"within; repeat beyond {plain(s.most_beyond_blank_c)} °C"
    level: Level = "watch" if compare.at_most(beyond, s.most_beyond_blank_c) else "redo"
    return said(beyond <= BEYOND_C, found, limit, level=level)


def _measured(f: Facts, s: HydrometerSchool) -> Seen | None:
    value, source = f.record.specific_gravity_ratio, f.record.specific_gravity_from
    if value is None or source is None:
        return None
    return said(source == "measured", f"{plain(value)}, {source}", "measured on this soil")


def _solution(f: Facts, s: HydrometerSchool) -> Seen | None:
    made, tested = f.record.dispersant_made_on, f.record.tested_on
    if made is None or tested is None:
        return None
    days = (tested - made).days
    return said(0 <= days <= s.most_solution_days, f"{days} days old", f"{s.most_solution_days} days")


def _mass(f: Facts, s: HydrometerSchool) -> Seen | None:
    seen = within(f.mass_g, s.mass_band_g, "g", "{} dry")
    return seen._replace(limit=f"{seen.limit} in a litre") if seen else None


RULES: tuple[Judge, ...] = (
    Rule(
        "a reading comes after the cylinder is set down",
        _after_zero,
        source=PHYSICS,
        level="stop",
        do="Look at time zero and at this reading's time; strike the wrong one.",
    ),
    Rule(
        "no more than all in suspension",
        _all_in_suspension,
        source=PHYSICS,
        do="Recheck the dry mass, the blank and the specific gravity.",
    ),
    Rule(
        "less in suspension with time",
        _less_with_time,
        source=PHYSICS,
        do="A reading or a temperature is wrong, or the cylinder was stirred.",
    ),
    Rule(
        # The diameter is worked out from the true time: only the spacing of the points suffers.
        "readings on time",
        _on_time,
        level="watch",
        do="Kept with its true time, which the diameter uses.",
    ),
    Rule(
        "no reading passed over",
        _passed_over,
        at=("readings",),
        level="watch",
        do="The curve is drawn without it; start again if its size matters.",
    ),
    Rule(
        "hydrometer in for the right time",
        _put_in,
        level="watch",
        do="Next time about half a minute before, gently; then out with a slight spin.",
    ),
    Rule(
        # A drifting room stirs the cylinder by convection, and thins the water.
        "temperature steady",
        _steady,
        at=("readings",),
        do="Stand the cylinders in a water bath, away from sun and draught.",
    ),
    Rule(
        "blanks span the test's temperatures",
        _spanned,
        at=("blanks",),
        do="Take another blank at the missing temperature.",
    ),
    Rule(
        # Diameter and percentage both lean on it.
        "specific gravity measured",
        _measured,
        at=("specific_gravity_from",),
        level="watch",
        do="0.05 more makes the percentages about 1 % less: measure it where that matters.",
    ),
    Rule(
        # Hexametaphosphate turns back to plain phosphate within weeks, and disperses no longer.
        "dispersant solution fresh",
        _solution,
        at=("dispersant_made_on",),
        level="watch",
        do="Make a new solution; look for flocs in the cylinder.",
    ),
    Rule(
        # Too little reads badly, too much hinders its own settling.
        "soil in the cylinder",
        _mass,
        at=("mass_dry_g",),
        level="watch",
        do="About 50 g of clay, 65 to 100 g of sandy soil.",
    ),
    balance_in_date,
)
