"""What a simulated instrument is set to, the troubles that it can have, and how texts become a setting."""

from typing import Any, Literal, NamedTuple, get_args

from vadum.instruments.simulated_water import WATER_BODIES, WaterSetting
from vadum.soil.contract.errors import FieldError

Kind = Literal[
    "frame", "press", "shear", "cell", "torque", "balance", "level", "plate", "levels", "reservoir", "manifold", "ph"
]
TROUBLES = {
    "sticking": "the gauge sticks, then jumps",
    "datum": "somebody steps on the datum: the penetration jumps back",
    "stuck": "the vertical gauge stands still",
    "screws": "the screws were left in: stiff at once, then a sudden fall",
    "friction": "the carriage runs hard: a force that the soil does not bear",
    "leak": "the membrane leaks: pore pressure creeps to the cell's, water keeps coming",
    "drift": "the cell pressure drifts away",
    "lifting": "the vehicle lifts: the force stands, the vehicle's gauge moves",
    "leaking": "the pump leaks: a held load falls and wants topping up",
    "warming": "the datum warms in the sun: every gauge creeps the wrong way",
    "stone": "a stone under the plate: stiff at first, then it gives way",
    "backwards": "one gauge runs the other way",
    "flat": "a level head hangs: the same level all the time",
    "jumps": "a level jumps up by 30 mm",
    "old buffer": "the pH meter was set to an old buffer: everything reads low",
    "drop": "the line is dropped, and can be opened again a little later",
    "garbage": "bytes that are no line come between the lines",
    "silence": "the line stays open and says nothing for a while",
}


MOST_FIGURE = 1e9
# What is divided by, or goes by the clock, is never nothing.
DIVIDED_BY = (
    *("speed", "samples_per_s", "reference_kn", "bend_mm", "power", "factor_n_div", "rate_mm_min", "drying_min"),
    *("opening_degrees", "failure_ratio", "height_mm", "area_mm2", "rating_kpa", "peak_degrees", "turn_degrees_min"),
    *("soft_mm", "greatest_mn_m2", "ultimate_mn_m2", "piston_cm2", "gauges", "again_mm", "peak_mm"),
)
LEAST = dict.fromkeys(DIVIDED_BY, 1e-3)
MOST = {"samples_per_s": 1000.0, "speed": 100_000.0, "gauges": 8}


class Setting(NamedTuple):
    """What a simulated instrument is set to. `at_mm` is where a frame's trouble begins.

    The ground is a force in `percent` of `reference_kn` at 2.5 mm, or its first slope in `a_kn_mm`; `hand` winds it by
    a hand whose pace wanders. A balance carries a soil that still loses `water_g`, two thirds of it within
    `drying_min`. A level stands over a soil that drinks `sorptivity_mm_min05 * sqrt(t) + fall_mm_min * t`; there
    `at_mm` is how far it has sunk. A plate is pumped to the next of its `loads` at each start.
    """

    kind: Kind = "frame"
    seed: int = 1
    speed: float = 1.0
    samples_per_s: float = 10.0
    noise: float = 0.1
    trouble: tuple[str, ...] = ()
    at_mm: float = 1.6
    away_s: float = 1.5
    percent: float = 42.0
    reference_kn: float = 13.2
    a_kn_mm: float = 0.0
    bend_mm: float = 2.6
    loose_mm: float = 0.0
    power: float = 2.5
    peak_mm: float = 1e9
    left_ratio: float = 1.0
    factor_n_div: float = 12.6
    seated_div: float = 4.0
    rate_mm_min: float = 1.0
    hand: bool = False
    start_mm: float = 0.0
    end_mm: float = 13.0
    running: bool = False
    mass_g: float = 168.92
    water_g: float = 0.0
    drying_min: float = 10.0
    level_mm: float = 300.0
    sorptivity_mm_min05: float = 4.0
    fall_mm_min: float = 1.2
    closing_mm: float = 0.04
    opening_degrees: float = 6.0
    screws_n: float = 320.0
    friction_n: float = 12.0
    deviator_kpa: float = 180.0
    failure_ratio: float = 0.06
    a_ratio: float = 0.3
    volume_ratio: float = 0.0
    height_mm: float = 75.0
    area_mm2: float = 1130.0
    cell_kpa: float = 400.0
    back_kpa: float = 300.0
    rating_kpa: float = 1000.0
    torque_n_m: float = 38.4
    remoulded_n_m: float = 9.7
    peak_degrees: float = 24.0
    turn_degrees_min: float = 6.0
    loads: tuple[float, ...] = (
        *(0.71, 5.65, 11.31, 16.96, 22.62, 29.69, 35.34),
        *(17.67, 8.84, 0.71, 5.65, 11.31, 16.96, 22.62, 29.69),
    )
    soft_mm: float = 4.1
    bends_mm: float = 1.8
    stays_ratio: float = 0.55
    again_mm: float = 2.0
    creep_mm: float = 0.06
    greatest_mn_m2: float = 0.5
    ultimate_mn_m2: float = 1e6
    gives_mm: float = 0.0
    piston_cm2: float = 20.0
    gauges: int = 1
    tilts_ratio: float = 0.02
    reaction_kn: float = 1e6
    water: WaterSetting = WaterSetting()


def _read(name: str, text: str, default: Any) -> Any:
    """A setting's text as what its default is; raises FieldError."""
    try:
        if isinstance(default, tuple):
            texts = [part for part in text.split(",") if part]
            return tuple(texts) if name == "trouble" else tuple(map(float, texts))
        if isinstance(default, bool):
            return text in ("1", "true", "yes")
        return type(default)(text)
    except ValueError:
        raise FieldError(name, f"{text!r} is not a number") from None


def setting(pairs: dict[str, str]) -> Setting:
    """A setting from texts by name; raises FieldError that names the wrong one."""
    of_water = WaterSetting._field_defaults if pairs.get("kind") in WATER_BODIES else {}
    given: dict[str, Any] = {}
    water: dict[str, Any] = {}
    for name, text in pairs.items():
        if name in of_water:
            water[name] = _read(name, text, of_water[name])
        elif name in Setting._fields and name != "water":
            given[name] = _read(name, text, Setting._field_defaults[name])
        else:
            known = ", ".join(of_water or (n for n in Setting._fields if n != "water"))
            raise FieldError(name, f"a simulated instrument has no such setting; known: {known}")
    made = Setting(**given, water=WaterSetting(**water))
    kinds = get_args(Kind)
    if made.kind not in kinds:
        raise FieldError("kind", f"{made.kind!r} is none of {', '.join(kinds)}")
    for name, value in (*made._asdict().items(), *made.water._asdict().items()):
        least, most = LEAST.get(name, -MOST_FIGURE), MOST.get(name, MOST_FIGURE)
        figures = value if isinstance(value, tuple) else (value,)
        for figure in figures:
            if isinstance(figure, int | float) and not least <= figure <= most:
                raise FieldError(name, f"must lie between {least:g} and {most:g}, not at {figure:g}")
    wrong = [t for t in made.trouble if t not in TROUBLES]
    if wrong:
        raise FieldError("trouble", f"{wrong[0]!r} is none of {', '.join(TROUBLES)}")
    return made
