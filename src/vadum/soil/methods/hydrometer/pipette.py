"""The pipette: samples of a known volume drawn from a depth at the time that a size needs to fall so far, and dried."""

from vadum.soil.contract.fields import known
from vadum.soil.methods.hydrometer import stokes
from vadum.soil.methods.hydrometer.record import Blank, Reading, Record

CYLINDER_ML = 1000.0
PLANNED_GRAVITY = 2.65  # for the timetable alone, while the soil's own is not known


def drawn_at_min(size_mm: float, depth_mm: float, temperature_c: float, gravity: float) -> float:
    """When a sample is to be drawn, so that nothing coarser than the size is left at the depth, min to the second.

    `t = 18 eta h / ((rho_s - rho_w) g D^2)`, written with the constant of the diameter: `t = (K / D)^2 L`.

    Parameters: `size_mm` and `depth_mm` above 0, in mm; `temperature_c` of the bath in °C; `gravity` above 1, a ratio.
    Returns: minutes since the cylinder was set down.
    Raises: ReductionError for a gravity of 1 or less.
    Source: ISO 17892-4 and BS 1377-2, pipette method; Stokes' law.

    >>> round(drawn_at_min(0.002, 100, 20, 2.65) / 60, 2), round(drawn_at_min(0.02, 100, 20, 2.65), 1)
    (7.75, 4.7)
    """
    constant = stokes.settling_constant(temperature_c, gravity)
    return round(60 * (constant / size_mm) ** 2 * depth_mm / 10) / 60


def finer_pipette_percent(solids_g: float, dispersant_g: float, drawn_ml: float, mass_dry_g: float) -> float:
    """Percent of the specimen finer than the sample's size: `P = 100 (m - m_d) (V / V_p) / M_s`, V the litre.

    Parameters: dried sample and the dispersant in it, g; the volume drawn, mL; the specimen's dry mass, g.
    Returns: %.
    Source: ISO 17892-4 and BS 1377-2, pipette method.

    >>> round(finer_pipette_percent(0.42, 0.02, 25.0, 40.0), 1)
    40.0
    """
    return 100 * (solids_g - dispersant_g) * (CYLINDER_ML / drawn_ml) / mass_dry_g


def is_pipette(record: Record) -> bool:
    """Whether this cylinder is sampled by a pipette."""
    return record.hydrometer_type == "pipette"


def solids_g(row: Reading | Blank) -> float | None:
    """What a drawn sample left in its container, g."""
    dried, container = row.mass_dried_g, row.mass_container_g
    return dried - container if known(dried) and known(container) else None


def dispersant_g_ml(record: Record) -> float | None:
    """Dispersant in a millilitre of suspension, g, as the mean of the blanks; None before one is dried.

    Parameters: `record`, whose blanks hold a volume in mL and masses in g.
    Returns: g/mL.
    Source: ISO 17892-4 and BS 1377-2, a sample of the dispersant alone.
    """
    found = [
        solids / b.drawn_ml
        for b in record.blanks
        if known(b.drawn_ml) and b.drawn_ml > 0 and (solids := solids_g(b)) is not None
    ]
    return sum(found) / len(found) if found else None


def open_containers(record: Record, field: str) -> list[tuple[str, str]]:
    """The drawn samples whose container lacks that mass: the path of the mass and the container's name."""
    rows: list[tuple[str, int, Blank | Reading]] = [("blanks", i, b) for i, b in enumerate(record.blanks)]
    rows += [("readings", i, r) for i, r in enumerate(record.readings) if not r.excluded_because]
    return [
        (f"{name}[{i}].{field}", row.container or f"{'blank' if name == 'blanks' else 'sample'} {i + 1}")
        for name, i, row in rows
        if known(row.drawn_ml) and getattr(row, field) is None
    ]
