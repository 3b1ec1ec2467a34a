"""The order of work for a specific gravity."""

from datetime import datetime
from typing import Any

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import BALANCE, Asks, Rows, Task, ask
from vadum.soil.contract.times import span
from vadum.soil.contract.waits import Oven
from vadum.soil.methods.specific_gravity.facts import Facts
from vadum.soil.methods.specific_gravity.record import Determination
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool
from vadum.soil.shared.specimen import SPECIMEN

IN_GAS = ("mass_dry_soil_g", "cell_cm3", "expansion_cm3", "gas_first_kpa", "gas_second_kpa")
FILLING = ("pycnometer", "mass_pycnometer_g", "mass_full_g", "full_at_c")


def _liquid(s: SpecificGravitySchool) -> bool:
    return s.by == "liquid"


def _gas(s: SpecificGravitySchool) -> bool:
    return s.by == "gas"


def _kept(f: Facts) -> list[tuple[int, Determination]]:
    return [(i, d) for i, d in enumerate(f.record.determinations) if not d.excluded_because]


def _begun(f: Facts) -> tuple[int, Determination] | None:
    """The pycnometer that holds its soil and is not weighed with it yet."""
    return next(((i, d) for i, d in _kept(f) if d.mass_with_soil_g is None or d.temperature_c is None), None)


def _weighed(f: Facts, s: SpecificGravitySchool) -> str:
    many = sum(d.mass_with_soil_g is not None for d in f.record.determinations)
    return f"{many} weighed" if f.record.determinations else ""


def _asks_air(f: Facts, s: SpecificGravitySchool) -> str:
    begun = _begun(f)
    name = (begun[1].pycnometer or begun[0] + 1) if begun else ""
    return f"Pycnometer {name}: draw the air, fill to the mark, weigh, then its temperature."


def _dishes(f: Facts) -> list[tuple[str, str]]:
    return [
        (f"determinations[{i}].mass_dry_soil_g", d.pycnometer or str(i + 1))
        for i, d in _kept(f)
        if d.mass_dry_soil_g is None
    ]


def _another(f: Facts, s: SpecificGravitySchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Where the pycnometers disagree another is run: which of two is wrong, only a third can tell."""
    apart = next((v for v in outcome.verdicts if v.rule == "determinations agree" and v.level == "redo"), None)
    if apart is None:
        return None
    at = f"determinations[{len(f.record.determinations)}]."
    return ask("The pycnometers disagree: run another.", apart.found, (f"{at}pycnometer",), 900, "another")


PYCNOMETERS: dict[str, Any] = {"rows": "determinations", "noun": "pycnometer"}

FLOW: Flow = (
    Task(
        key="soil",
        applies=_liquid,
        title="Soil as slurry",
        does="Through 4.75 mm; mixed to a slurry so that no air is folded in. Keep all of it.",
        fields=("came_through_mm", "started", "flask_ml", "liquid", "liquid_density_mg_m3", *BALANCE),
        is_done=lambda f, s: bool(f.record.determinations),
        due_now=lambda f, s: False,
        cautions=("Mixer blades: unplug before clearing them.",),
        hands_s=900,
        note=lambda f, s: "" if f.record.came_through_mm is None else f"through {plain(f.record.came_through_mm)} mm",
    ),
    Rows(
        key="pycnometers",
        applies=_liquid,
        title="Pycnometers",
        does="Clean and dry; the number brings the mass empty and full of water at its temperature.",
        fields=(*(f"determinations[].{name}" for name in FILLING), "determinations[].excluded_because"),
        reads=FILLING,
        least=lambda f, s: s.least_determinations,
        is_done=lambda f, s: len(_kept(f)) >= s.least_determinations,
        due_now=lambda f, s: _begun(f) is None,
        asks="Take a clean pycnometer and put the soil in.",
        how="Its number brings its mass empty and full of water. 50 g or so of soil through 4.75 mm, as slurry.",
        amount=lambda f, s: ("", ""),
        cautions=("Glass: look for cracks before any vacuum.",),
        hands_s=600,
        note=lambda f, s: ", ".join(d.pycnometer for d in f.record.determinations if d.pycnometer),
        **PYCNOMETERS,
    ),
    Rows(
        key="air",
        applies=_liquid,
        title="Draw the air",
        does="Vacuum with shaking, or gentle boiling, until no bubble rises; fill with de-aired water; stopper; wipe.",
        fields=("deaired_by", "deaired_min"),
        reads=(*FILLING, "mass_with_soil_g", "temperature_c"),
        also=("deaired_by", "deaired_min"),
        least=lambda f, s: 0,
        is_done=lambda f, s: bool(f.record.determinations) and _begun(f) is None,
        asks=_asks_air,
        how=lambda f, s: f"Vacuum {span(s.vacuum_min)} or boiling {span(s.boiling_min)}; water of the same warmth.",
        amount=lambda f, s: ("", ""),
        cautions=(
            "Glass under vacuum can burst: eye protection, guard in front.",
            "Boiling slurry bumps: low heat, gloves, never stoppered.",
        ),
        hands_s=900,
        waits_min=lambda s: s.vacuum_min,
        holds=("vacuum", "pycnometer"),
        alone=False,
        note=lambda f, s: f.record.deaired_by or "",
        **PYCNOMETERS,
    ),
    Task(
        key="weigh",
        applies=_liquid,
        title="Weigh with soil and water",
        does="At even temperature; the mass, then the temperature in the slurry.",
        fields=("determinations[].mass_with_soil_g", "determinations[].temperature_c"),
        is_done=lambda f, s: (
            bool(f.record.determinations) and all(d.mass_with_soil_g is not None for d in f.record.determinations)
        ),
        due_now=lambda f, s: False,  # asked with the air: the two are one visit to the pycnometer
        hands_s=300,
        holds=("balance",),
        note=_weighed,
    ),
    Oven(
        key="dry",
        applies=_liquid,
        title="Dry and weigh the soil",
        does="Pour out without loss, oven overnight, cool with the lid on, weigh.",
        fields=("in_oven_at", "determinations[].mass_dry_soil_g", "coarse_gravity_ratio", "finer_percent", "remarks"),
        tins=_dishes,
        is_done=lambda f, s: bool(f.record.determinations) and not _dishes(f),
        before="Pour out without loss. ",
        vessel="dish of pycnometer",
        cautions=("Hot dishes: gloves and tongs.",),
        hands_s=300,
        holds=("oven",),
    ),
    Rows(
        key="gas",
        applies=_gas,
        title="Gas pycnometer",
        does="Oven-dry soil in the cell, purged; pressure in the cell, then with the chamber opened.",
        fields=(
            "came_through_mm",
            *BALANCE,
            "determinations[].pycnometer",
            *(f"determinations[].{name}" for name in IN_GAS),
            "determinations[].excluded_because",
            "coarse_gravity_ratio",
            "finer_percent",
            "remarks",
        ),
        reads=IN_GAS,
        also=("came_through_mm",),
        least=lambda f, s: s.least_determinations,
        asks="Oven-dry soil into the cell: its mass, then both pressures.",
        how="Cool it in a desiccator; purge the cell; wait until each pressure stands still.",
        cautions=("Gas under pressure: close the cell before the valve is opened; regulator within its rating.",),
        hands_s=600,
        holds=("gas pycnometer",),
        note=lambda f, s: f"{len(f.found)} read" if f.found else "",
        **PYCNOMETERS,
    ),
    Asks(key="another", title="Another", does="", in_column=False, think=_another),
    SPECIMEN,
)
