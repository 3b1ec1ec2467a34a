"""Practice on a virtual soil: what it answers when it is read, and, once revealed, what was missed."""

from datetime import datetime
from typing import Any, NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import RecordPart, field_of, known, unit_of
from vadum.soil.contract.method import Method, School, Trial
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Cell, Outcome, Table
from vadum.soil.shared.bearing.calls import rate_mm_min, timed
from vadum.soil.shared.bearing.curve import seating_n
from vadum.soil.shared.bearing.curve_checks import SEATING_RULE
from vadum.soil.shared.bearing.ends import found_of, penetration_of
from vadum.soil.shared.bearing.ground import Ground
from vadum.soil.shared.bearing.record import BearingRecord, End
from vadum.soil.shared.bearing.ring import ring_force_kn
from vadum.soil.shared.bearing.school import BearingSchool

# What the technician judges, and no soil answers: it stays for the person to decide.
DECIDED = ("expected_percent", "seating_n", "zero_mm", "zero_because", "stopped", "excluded_because", "remarks")
# Laboratory settings: from where on a difference is named.
LATE_S = 2.0
ZERO_APART_MM = 0.2
READ_APART = 1e-6


class Answer(NamedTuple):
    """What the apparatus shows for a field of this moment."""

    path: str
    title: str
    value: str
    unit: str


class Compared(NamedTuple):
    """A true parameter and the one that was found; `found` None where the run did not come so far."""

    key: str
    name: str
    unit: str
    truth: float
    found: float | None
    tolerance: float
    reported: str

    @property
    def within(self) -> bool:
        """Whether it was found."""
        return self.found is not None and abs(self.found - self.truth) <= self.tolerance


class Mistake(NamedTuple):
    """Something that was seen in the run, and what to do about it next time."""

    name: str
    seen: str
    better: str


def reading_at(record: RecordPart, path: str) -> Any:
    """The reading at a path of a record; None where there is none."""
    name, bracket, rest = path.partition("[")
    value = getattr(record, name, None)
    if not bracket:
        return value
    index, field = int(rest.partition("]")[0]), rest.partition("].")[2]
    return getattr(value[index], field, None) if isinstance(value, tuple) and index < len(value) else None


def decided(path: str, method: Method | None = None) -> bool:
    """Whether a field is the technician's own judgement.

    >>> decided("top_seating_n"), decided("trials[0].mass_wet_g")
    (True, False)
    """
    field = path.rpartition(".")[2]
    return field.endswith(DECIDED) or (method is not None and field in method.decides)


def shown_at(method: Method, school: School, seed: int, record: RecordPart, path: str, trial: Trial) -> Any:
    """What the apparatus shows at a path: by what the person chose where that counts, else as `virtual` has it."""
    own = method.answers(seed, school, record, path)
    return reading_at(trial.record, path) if own is None else own


def answers(
    method: Method, school: School, seed: int, record: RecordPart, wants: tuple[str, ...]
) -> tuple[Answer, ...]:
    """What the virtual soil of that seed answers for the fields that are wanted now.

    Called readings have no answer here: they are read off the dials while the plunger goes in.
    """
    trial = method.virtual(seed, school, None)
    found = []
    for path in wants:
        field = field_of(method.Record, path)
        if field is None or decided(path, method) or path.endswith(".ring_div"):
            continue
        value = shown_at(method, school, seed, record, path, trial)
        if path.endswith("seated_div") and isinstance(record, BearingRecord):
            value = _seated(record, path)
        if value is None or isinstance(value, datetime):
            continue
        found.append(Answer(path, field.title or path, _as_shown(value), unit_of(path.rpartition(".")[2])))
    return tuple(found)


def _as_shown(value: Any) -> str:
    """The text that stands on the apparatus: long figures to two decimals."""
    if not isinstance(value, float):
        return str(value)
    text = f"{value:.6g}"
    return text if len(text.replace(".", "")) <= 5 or value == round(value) else f"{value:.2f}"


def _seated(record: BearingRecord, path: str) -> float | None:
    """The ring under the seating load that was chosen, to half a division."""
    load, factor = getattr(record, path.replace("_div", "_n").replace("seated", "seating")), record.ring_factor_n_div
    return round(2 * load / factor) / 2 if known(load) and known(factor) and factor > 0 else None


def first_pace_mm_min(seed: int, school: BearingSchool) -> float:
    """The pace at which a hand begins, mm/min: outside the allowed band, to be brought into it."""
    off = 1.4 * school.rate_tolerance_percent / 100
    return school.rate_mm_min * (1 + off if seed % 2 else 1 - off)


def compared(method: Method, school: School, seed: int, outcome: Outcome) -> tuple[Compared, ...]:
    """Each true parameter beside the one that was found."""
    trial = method.virtual(seed, school, None)
    rows = []
    for key, truth in trial.truth.items():
        value = outcome.value(key)
        sample = method.outcome(trial.record, school).value(key)
        name, unit = (sample.name, sample.unit) if sample else (key, "")
        found = value.value if value else None
        rows.append(
            Compared(key, name, unit, truth, found, trial.tolerance[key], value.reported if value else "not reached")
        )
    return tuple(rows)


def truth_series(method: Method, school: School, seed: int, record: RecordPart) -> dict[str, Table]:
    """The hidden ground's own curve beside the readings of each push; nothing for a method without a plunger."""
    if not (isinstance(record, BearingRecord) and isinstance(school, BearingSchool)):
        return {}
    rows: list[dict[str, Cell]] = []
    for end in record.ends():
        under = method.under(seed, school, end.key)
        if under is None:
            continue
        many, last = int(10 * school.called_mm[-1]), school.called_mm[-1]
        for i in range(many + 1):
            at = last * i / many
            label = "the soil" if i == many // 2 and end.key != "bottom" else ""
            rows.append({"end": end.words, "penetration_mm": at, "force_kn": under[1].force_kn(at), "label": label})
    return {"truth": tuple(rows)}


def mistakes(method: Method, school: School, seed: int, record: RecordPart, outcome: Outcome) -> tuple[Mistake, ...]:
    """The mistakes that show: rules that did not hold, readings that differ from what was shown, and the plunger's."""
    told = [v for v in outcome.verdicts if v.rule != SEATING_RULE]  # the truth judges the seating better, below
    found = [Mistake(v.rule, v.found, v.remedy) for v in told if v.level in ("stop", "redo")]
    found += [Mistake(v.rule, v.found, v.remedy) for v in told if v.level == "watch"]
    found += _misread(method, school, seed, record)
    if isinstance(record, BearingRecord) and isinstance(school, BearingSchool):
        for end in record.ends():
            under = method.under(seed, school, end.key)
            if under is not None:
                found += _of_the_push(record, end, school, *under)
    return tuple(found)


def _misread(method: Method, school: School, seed: int, record: RecordPart) -> list[Mistake]:
    """Numbers that were written otherwise than they were shown."""
    trial = method.virtual(seed, school, None)
    found = []
    for path, value in _numbers(record):
        answer = shown_at(method, school, seed, record, path, trial)
        field = field_of(method.Record, path)
        if (
            decided(path, method)
            or path.endswith(("ring_div", "seated_div", "elapsed_s"))
            or not isinstance(answer, int | float)
        ):
            continue
        # A figure may be written to all its digits or as it was shown.
        if min(abs(answer - value), abs(float(_as_shown(answer)) - value)) > READ_APART:
            row = path.partition("[")[2].partition("]")[0]
            where = f" {int(row) + 1}" if row else ""
            title = f"{field.title if field else path}{where}"
            found.append(
                Mistake("misread", f"{title}: {plain(value, 6)} written, {plain(answer, 6)} shown", "Read it twice.")
            )
    return found


def _numbers(record: RecordPart) -> list[tuple[str, float]]:
    found: list[tuple[str, float]] = []
    for name, value in record:
        if isinstance(value, tuple):
            found += [
                (f"{name}[{i}].{f}", v) for i, row in enumerate(value) for f, v in row if isinstance(v, int | float)
            ]
        elif isinstance(value, int | float):
            found.append((name, value))
    return found


def _of_the_push(
    record: BearingRecord, end: End, school: BearingSchool, percent: float, ground: Ground
) -> list[Mistake]:
    """Late calls, a seating of the wrong class, a tangent drawn elsewhere."""
    found = []
    rate = rate_mm_min(timed(end, school)) or school.rate_mm_min
    late = [
        (i, s)
        for i in range(len(end.rows))
        if (s := late_s(record, end, i, school, ground, rate)) is not None and abs(s) > LATE_S
    ]
    if late:
        i, seconds = max(late, key=lambda r: abs(r[1]))
        word = "late" if seconds > 0 else "early"
        worst = f"the worst at {school.called_mm[i]:g} mm, about {abs(seconds):.0f} s {word}"
        seen = f"{end.words}: {len(late)} calls; {worst}"
        found.append(
            Mistake("calls late or early", seen, "Say the next penetration aloud before the needle reaches it.")
        )
    wanted = seating_n(percent, school.seating_classes)
    share = school.seating_tolerance_percent / 100
    if known(end.seating_n) and not (1 - share) * wanted <= end.seating_n <= (1 + share) * wanted:
        seen = f"{end.words}: {plain(end.seating_n)} N where {percent:.2g} % wants {plain(wanted)} N"
        found.append(Mistake("seating of the wrong class", seen, "Judge the ratio by the soil's feel before seating."))
    its = found_of(record, end, school)
    true = _true_shift_mm(ground)
    if its.curve is not None and its.over and abs(its.shift_mm - true) > ZERO_APART_MM:
        seen = f"{end.words}: zero moved by {plain(its.shift_mm, 3)} mm, the loose skin was {plain(true, 3)} mm"
        found.append(Mistake("tangent drawn elsewhere", seen, "Lay it along the steepest straight part."))
    return found


def _true_shift_mm(ground: Ground) -> float:
    """How far the loose skin moves the curve of sound ground, mm."""
    deep = 5.0
    return deep - ground.effective_mm(deep) if ground.loose_mm > 0 else 0.0


def late_s(
    record: BearingRecord, end: End, row: int, school: BearingSchool, ground: Ground, rate: float
) -> float | None:
    """How late a call was read, s, told from the ring: where the true curve has that force, at a rate in mm/min."""
    reading, ring = end.rows[row].ring_div, record.ring()
    at_mm = penetration_of(end, row, school)
    if ring is None or at_mm is None or not known(reading) or at_mm <= 0:
        return None
    try:
        seated = ring_force_kn(ring, end.seated_div) if known(end.seated_div) else 0.0
        force = ring_force_kn(ring, reading) - seated
    except ReductionError:
        return None
    if force <= 0:
        return None
    low, high = 0.0, 2 * school.called_mm[-1]
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if ground.force_kn(middle) < force else (low, middle)
    slope = (ground.force_kn(at_mm + 0.05) - ground.force_kn(at_mm - 0.05)) / 0.1
    # Where the curve is so flat that one division means seconds, the ring does not tell.
    division = ring_force_kn(ring, 1.0 + (ring.range_div[0])) - ring_force_kn(ring, ring.range_div[0])
    if slope <= 0 or 60 * (division / slope) / rate > LATE_S:
        return None
    return 60 * (low - at_mm) / rate
