"""The cylinder: which hydrometer, the blank's line, and what each reading gives."""

from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.hydrometer import pipette, stokes
from vadum.soil.methods.hydrometer.record import Blank, Reading, Record
from vadum.soil.methods.hydrometer.school import HydrometerSchool


def reads_sg(record: Record) -> bool:
    """Whether the stem is marked in specific gravity (151H and its kin) and not in g/L."""
    return record.hydrometer_type in ("151H", "calibrated, sg")


def stem_field(record: Record) -> str:
    """The field that this hydrometer's readings go into; a pipette's samples go by the volume drawn."""
    if pipette.is_pipette(record):
        return "drawn_ml"
    return "reading_sg" if reads_sg(record) else "reading_g_l"


def stem_reading(row: Reading | Blank, record: Record) -> float | None:
    """The reading as the stem says it."""
    value = getattr(row, stem_field(record))
    return value if known(value) else None


def dry_mass_g(record: Record) -> float | None:
    """Oven-dry mass in the litre, g: weighed, or the air-dry mass less its water."""
    if known(record.mass_dry_g) and record.mass_dry_g > 0:
        return record.mass_dry_g
    taken, water = record.mass_taken_g, record.air_dry_water_percent
    if known(taken) and taken > 0 and known(water) and water >= 0:
        return taken / (1 + water / 100)
    return None


def corrections(record: Record) -> list[tuple[float, float]]:
    """Temperature in °C and composite correction of each blank, cold first, in the stem's unit."""
    if pipette.is_pipette(record):
        return []  # what a blank dried to is taken from each sample, at any temperature
    zero = 1.0 if reads_sg(record) else 0.0
    found = [
        (b.temperature_c, reading - zero)
        for b in record.blanks
        if known(b.temperature_c) and (reading := stem_reading(b, record)) is not None
    ]
    return sorted(found)


def correction_at(record: Record, temperature_c: float) -> float | None:
    """Composite correction at a temperature; of one blank alone its own; None without any.

    Parameters: `temperature_c` in °C, of the reading.
    Returns: the stem's unit, to be taken from the reading.
    Source: ASTM D422, two blanks; one blank is taken as it is and a verdict says so.
    """
    found = corrections(record)
    if not found:
        return None
    if found[0][0] == found[-1][0]:
        return found[0][1]
    return stokes.composite_correction(temperature_c, found[0], found[-1])


def elapsed_min(record: Record, row: Reading) -> float | None:
    """Minutes since the cylinder was set down: typed, or by the reading's own time."""
    if known(row.elapsed_min):
        return row.elapsed_min
    if row.read_at is None or record.started_at is None:
        return None
    return minutes_between(record.started_at, row.read_at)


class Depth(NamedTuple):
    """Effective depth in cm with the formula and inputs that gave it; whether the hydrometer was still in."""

    cm: float
    left_in: bool
    formula: str
    inputs: dict[str, float]


class Settled(NamedTuple):
    """What one reading gives. `finer_percent` is of the specimen, `of_whole_percent` of the whole soil."""

    row: int
    elapsed_min: float
    reading: float
    temperature_c: float
    correction: float
    corrected: float
    depth: Depth
    constant: float
    diameter_mm: float
    finer_percent: float
    of_whole_percent: float
    counts: bool


BULB = ("bulb_length_cm", "bulb_volume_cm3", "stem_zero_cm", "stem_step_cm")


def bulb_missing(record: Record) -> tuple[str, ...]:
    """The sizes that a calibrated hydrometer still needs; a 151H or 152H has those of its standard."""
    if record.hydrometer_type not in ("calibrated, sg", "calibrated, g/L"):
        return ()
    return tuple(f for f in BULB if not known(getattr(record, f)))


def meniscus(record: Record) -> float | None:
    """The meniscus correction in the stem's unit, as the hydrometer's register has it; None where it is not known."""
    value = record.meniscus_sg if reads_sg(record) else record.meniscus_g_l
    return value if known(value) else None


def depth_of(record: Record, school: HydrometerSchool, reading: float, minutes: float) -> Depth:
    """Effective depth of a reading. While the hydrometer stays in, the rise of the water by its bulb drops out.

    Raises ReductionError for a calibrated hydrometer whose sizes are not known.
    """
    # The bulb hangs from the true surface, a little below the top of the meniscus that is read.
    read, rise = reading, (meniscus(record) or 0.0) if school.adds_meniscus else 0.0
    reading = read + rise
    left_in = minutes <= school.left_in_min + 0.05
    area = record.cylinder_area_cm2 if known(record.cylinder_area_cm2) else stokes.CYLINDER_AREA_CM2
    volume = stokes.BULB_VOLUME_CM3
    inputs: dict[str, float]
    if record.hydrometer_type in ("calibrated, sg", "calibrated, g/L"):
        length, bulb = record.bulb_length_cm, record.bulb_volume_cm3
        zero, step = record.stem_zero_cm, record.stem_step_cm
        if not (known(length) and known(bulb) and known(zero) and known(step)):
            raise ReductionError("effective depth", "a calibrated hydrometer", ", ".join(bulb_missing(record)))
        volume = bulb
        marks = (reading - 1) * 1000 if reads_sg(record) else reading
        depth = stokes.depth_calibrated_cm(zero - step * marks, length, volume, area)
        inputs = {"z": zero, "s": step, "n": marks, "L_2": length, "V_b": volume, "A": area}
        formula = "z - s * n + (L_2 - V_b / A) / 2"
        rise = 0.0  # stands in n
    elif reads_sg(record):
        depth, formula, inputs = stokes.depth_151h_cm(reading), "16.294 - 264.5 * (R - 1)", {"R": reading}
    else:
        depth, formula, inputs = stokes.depth_152h_cm(reading), "16.294 - 0.164 * R", {"R": reading}
    if rise:
        formula = formula.replace("R", "(R + C_m)")
        inputs = {"R": read, "C_m": rise}
    if left_in:
        depth += volume / area / 2
        formula += " + V_b / (2 * A)"
        inputs |= {"V_b": volume, "A": area}
    return Depth(depth, left_in, formula, inputs)


def gravity_of(record: Record) -> float | None:
    """Specific gravity of the solids, when it can be one."""
    value = record.specific_gravity_ratio
    return value if known(value) and value > 1 else None


def share_percent(record: Record) -> float:
    """The share of the whole soil that the specimen is, percent; of a specimen whose share is not known 100: its
    results are then said to be of the specimen, never of the whole."""
    return record.passing_percent if known(record.passing_percent) else 100.0


def of_specimen(record: Record) -> str:
    """What the results are of where the specimen's share of the whole is not known; empty where it is, or all of the
    soil was taken."""
    if known(record.passing_percent) or not known(record.came_through_mm):
        return ""
    return f" of the specimen below {plain(record.came_through_mm)} mm"


def drawn(record: Record, school: HydrometerSchool, mass: float, gravity: float) -> list[Settled]:
    """Every dried sample of a pipette that can be reduced, in the order of time: reading and corrected in g."""
    share, found = pipette.dispersant_g_ml(record) or 0.0, []
    for i, row in enumerate(record.readings):
        solids, minutes, volume = pipette.solids_g(row), elapsed_min(record, row), row.drawn_ml
        if solids is None or minutes is None or minutes <= 0 or not known(volume) or not known(row.temperature_c):
            continue
        depth = row.depth_mm if known(row.depth_mm) else school.pipette_depth_mm
        try:
            constant = stokes.settling_constant(row.temperature_c, gravity)
            size = stokes.diameter_mm(constant, depth / 10, minutes)
        except ReductionError:
            continue  # the verdicts have said which reading cannot be
        percent = pipette.finer_pipette_percent(solids, share * volume, volume, mass)
        found.append(
            Settled(
                row=i,
                elapsed_min=minutes,
                reading=solids,
                temperature_c=row.temperature_c,
                correction=share * volume,
                corrected=solids - share * volume,
                depth=Depth(depth / 10, False, "h / 10", {"h": depth}),
                constant=constant,
                diameter_mm=size,
                finer_percent=percent,
                of_whole_percent=percent * share_percent(record) / 100,
                counts=not row.excluded_because,
            )
        )
    return sorted(found, key=lambda s: s.elapsed_min)


def settled(record: Record, school: HydrometerSchool) -> list[Settled]:
    """Every reading that can be reduced, in the order of time."""
    mass, gravity = dry_mass_g(record), gravity_of(record)
    if mass is None or gravity is None:
        return []
    if pipette.is_pipette(record):
        return drawn(record, school, mass, gravity) if pipette.dispersant_g_ml(record) is not None else []
    passing = share_percent(record)
    found = []
    for i, row in enumerate(record.readings):
        reading, minutes = stem_reading(row, record), elapsed_min(record, row)
        if reading is None or minutes is None or not known(row.temperature_c):
            continue
        try:
            correction = correction_at(record, row.temperature_c)
            if correction is None:
                continue
            depth = depth_of(record, school, reading, minutes)
            constant = stokes.settling_constant(row.temperature_c, gravity)
            size = stokes.diameter_mm(constant, depth.cm, minutes)
        except ReductionError:
            continue  # the checks name the reading that cannot be
        corrected = reading - correction
        finer = stokes.finer_151h_percent if reads_sg(record) else stokes.finer_152h_percent
        percent = finer(corrected, mass, gravity)
        of_whole = percent * passing / 100
        found.append(
            Settled(
                i,
                minutes,
                reading,
                row.temperature_c,
                correction,
                corrected,
                depth,
                constant,
                size,
                percent,
                of_whole,
                not row.excluded_because,
            )
        )
    return sorted(found, key=lambda s: s.elapsed_min)
