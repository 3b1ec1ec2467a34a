"""What a simulated instrument is: frames, a pressure cell, torque gauge, balance, level; settings and troubles."""

import math
import random
from collections.abc import Callable
from typing import Any, Literal, NamedTuple

from vadum.instruments.simulated_water import WATER_BODIES, Body, WaterSetting
from vadum.soil.contract.errors import FieldError
from vadum.soil.shared.load_curve import load_curve_of, vertical_mm
from vadum.soil.shared.plate.ground import LN10, Ground
from vadum.soil.shared.proving_ring import Ring, divisions_of

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
PUMPS_KN_S, LEAKS_MIN = 1.2, 0.002  # a hand at the pump, and what its seals lose of a load in a minute
# A hand at the crank: how far its pace wanders (share of the rate), over how many seconds, and one step of its will.
FAR_MM = 1e6  # a peak that never comes
WANDERS, WANDERS_S, STEP_OF_PACE = 0.09, 6.0, 1.08


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
    if made.kind not in BODIES:
        raise FieldError("kind", f"{made.kind!r} is none of {', '.join(BODIES)}")
    wrong = [t for t in made.trouble if t not in TROUBLES]
    if wrong:
        raise FieldError("trouble", f"{wrong[0]!r} is none of {', '.join(TROUBLES)}")
    return made


class Frame:
    """A load frame pushing a plunger into virtual ground at a steady rate once it is started."""

    def __init__(self, its: Setting, dice: random.Random) -> None:
        self.its, self.dice = its, dice
        self.running = its.running
        self.true_mm = its.start_mm
        self.rate_mm_min = its.rate_mm_min
        self._wander = 0.0
        self.ground = load_curve_of(its.percent, its.reference_kn, 2.5, its.bend_mm, its.loose_mm)
        if its.a_kn_mm > 0:
            self.ground = self.ground._replace(a_kn_mm=its.a_kn_mm)
        self.ground = self.ground._replace(power=its.power, peak_mm=its.peak_mm, left_ratio=its.left_ratio)
        self.ring = Ring((), its.factor_n_div, None)

    @property
    def troubled(self) -> bool:
        """Whether the moment of its trouble has come."""
        return self.true_mm >= self.its.at_mm

    def advance(self, seconds: float) -> None:
        """Let instrument time pass."""
        if not self.running:
            return
        if self.its.hand:
            keeps = math.exp(-seconds / WANDERS_S)
            self._wander = keeps * self._wander + self.dice.gauss(0, WANDERS * math.sqrt(1 - keeps**2))
        rate = self.rate_mm_min * max(0.2, 1 + self._wander)
        self.true_mm = min(self.true_mm + rate * seconds / 60, self.its.end_mm)

    def command(self, name: str) -> None:
        """Start and stop the motor, wind it back to where it began, or let it go a little faster or slower."""
        if name in ("start", "stop", "back"):
            self.running = name == "start"
        if name == "back":
            self.true_mm = 0.0
        if name in ("faster", "slower"):
            self.rate_mm_min *= STEP_OF_PACE if name == "faster" else 1 / STEP_OF_PACE

    def figures(self) -> str:
        """Gauge to 0.001 mm, ring to 0.1 division, with noise and the troubles of this moment."""
        its, true = self.its, self.true_mm
        force = self.ground.force_kn(true)
        shown, vehicle = true, 0.0
        if "sticking" in its.trouble and its.at_mm <= true < its.at_mm + 0.4:
            shown = its.at_mm
        if "datum" in its.trouble and true >= its.at_mm:
            shown = true - 0.6
        if "lifting" in its.trouble and true >= its.at_mm:
            force = self.ground.force_kn(its.at_mm)
            vehicle = true - its.at_mm
        divisions = its.seated_div + divisions_of(self.ring, force) + self.dice.gauss(0, its.noise)
        text = f"penetration={shown:.3f} ring={max(0.0, divisions):.1f}"
        return text + (f" vehicle={vehicle:.2f}" if "lifting" in its.trouble else "")


class Press(Frame):
    """A press with a load cell, shortening a core: a peak, and softening behind it."""

    def figures(self) -> str:
        """Shortening to 0.001 mm, force to 0.1 N, with noise and the troubles of this moment."""
        its, true = self.its, self.true_mm
        force = 1000 * self.ground.force_kn(true) + self.dice.gauss(0, its.noise)
        shown = true
        if "sticking" in its.trouble and its.at_mm <= true < its.at_mm + 0.4:
            shown = its.at_mm
        if "datum" in its.trouble and true >= its.at_mm:
            shown = true - 0.6
        return f"travel={shown:.3f} force={max(0.0, force):.1f}"


class Shear(Press):
    """A shear frame: its carriage travels, the soil rises to a peak and softens, the cap sinks a little and rises."""

    def figures(self) -> str:
        """Travel to 0.001 mm, force to 0.1 N, the vertical gauge to 0.001 mm down, with the troubles of this moment."""
        its, true = self.its, self.true_mm
        force = 1000 * self.ground.force_kn(true) + self.dice.gauss(0, its.noise)
        if "screws" in its.trouble and 0 < true < its.at_mm:
            force += its.screws_n * min(1.0, true / 0.1)
        if "friction" in its.trouble and true > 0:
            force += its.friction_n
        shown = its.at_mm if "sticking" in its.trouble and its.at_mm <= true < its.at_mm + 0.4 else true
        still = min(true, its.at_mm) if "stuck" in its.trouble else true
        vertical = vertical_mm(still, its.closing_mm, its.peak_mm, its.opening_degrees) if its.peak_mm < FAR_MM else 0.0
        vertical += 0.0 if "stuck" in its.trouble and self.troubled else self.dice.gauss(0, its.noise / 200)
        return f"travel={shown:.3f} force={max(0.0, force):.1f} vertical={vertical:.3f}"


class PressureCell(Frame):
    """A pressure cell in a frame: cell and back pressure stand, a specimen shears; load, pore pressure, water out."""

    def __init__(self, its: Setting, dice: random.Random) -> None:
        super().__init__(its, dice)
        self.cell_kpa, self.back_kpa, self.seconds = its.cell_kpa, its.back_kpa, 0.0
        self.refused = ""

    def advance(self, seconds: float) -> None:
        """Let instrument time pass."""
        super().advance(seconds)
        self.seconds += seconds
        if "drift" in self.its.trouble:
            self.cell_kpa = max(0.0, self.cell_kpa - 0.02 * seconds)

    def command(self, name: str) -> None:
        """Motor as the frame's; `cell 350` and `back 340` set a pressure in kPa. One above the cell's rating, or a back
        pressure above the cell's, is refused, and the reason kept in `refused`."""
        word, _, figure = name.partition(" ")
        if word not in ("cell", "back"):
            super().command(name)
            return
        try:
            wanted = float(figure)
        except ValueError:
            self.refused = f"{figure!r} is no pressure"
            return
        if word == "cell" and wanted > self.its.rating_kpa:
            self.refused = f"{wanted:g} kPa is above the cell's rating of {self.its.rating_kpa:g} kPa"
        elif word == "back" and wanted >= self.cell_kpa:
            self.refused = (
                f"a back pressure of {wanted:g} kPa would lift the membrane: the cell stands at {self.cell_kpa:g}"
            )
        else:
            self.refused = ""
            if word == "cell":
                self.cell_kpa = wanted
            else:
                self.back_kpa = wanted

    def share(self, strain: float) -> float:
        """The share of the greatest deviator at a strain, a ratio: a hyperbola to 1, then a fall."""
        x, bend = strain / self.its.failure_ratio, 0.5
        top = 1 / (1 + (1 / bend) ** 2) ** 0.5
        if x <= 1:
            return float(x / (1 + (x / bend) ** 2) ** 0.5 / top)
        return 1 - (1 - self.its.left_ratio) * (1 - math.exp(-(x - 1) / 0.5))

    def figures(self) -> str:
        """Shortening to 0.001 mm, load to 0.1 N, pressures to 0.1 kPa, water to 0.001 cm³."""
        its = self.its
        strain = self.true_mm / its.height_mm
        q = its.deviator_kpa * self.share(strain)
        volume = its.volume_ratio * (1 - math.exp(-strain / 0.03))
        force = q * its.area_mm2 * (1 - volume) / (1 - strain) / 1000
        pore, water = self.back_kpa + its.a_ratio * q, volume * its.height_mm * its.area_mm2 / 1000
        if "leak" in its.trouble:
            pore = self.cell_kpa - (self.cell_kpa - pore) * math.exp(-self.seconds / 600)
            water += 0.002 * self.seconds
        pore += self.dice.gauss(0, its.noise)
        force += self.dice.gauss(0, its.noise)
        return (
            f"travel={self.true_mm:.3f} force={max(0.0, force):.1f} pore={pore:.1f} cell={self.cell_kpa:.1f} "
            f"back={self.back_kpa:.1f} volume={water:.3f}"
        )


class Torque:
    """A torque gauge on a rod that is turned slowly: it rises to the peak, and falls to what remoulded clay holds."""

    def __init__(self, its: Setting, dice: random.Random) -> None:
        self.its, self.dice, self.degrees, self.running = its, dice, 0.0, its.running

    @property
    def troubled(self) -> bool:
        """Whether the moment of its trouble has come."""
        return self.degrees >= self.its.at_mm

    def advance(self, seconds: float) -> None:
        """Let instrument time pass: the rod turns at the set rate."""
        if self.running:
            self.degrees += self.its.turn_degrees_min * seconds / 60

    def command(self, name: str) -> None:
        """Start and stop the turning, or go back to no torque."""
        self.running = name == "start" if name in ("start", "stop", "back") else self.running
        if name == "back":
            self.degrees = 0.0

    def figures(self) -> str:
        """Angle to 0.1 degree, torque to 0.1 N m."""
        its = self.its
        share = self.degrees / its.peak_degrees
        torque = its.torque_n_m * min(share, 1.0) ** 0.6
        if share > 1:
            torque -= (its.torque_n_m - its.remoulded_n_m) * (1 - math.exp(-(share - 1)))
        return f"angle={self.degrees:.1f} torque={max(0.0, torque + self.dice.gauss(0, its.noise / 4)):.1f}"


class Balance:
    """A balance whose mass settles after something was put on it, and falls while a moist soil on it dries."""

    def __init__(self, its: Setting, dice: random.Random) -> None:
        self.its, self.dice, self.seconds = its, dice, 0.0

    @property
    def troubled(self) -> bool:
        """Whether the moment of its trouble has come."""
        return self.seconds > 1

    def advance(self, seconds: float) -> None:
        """Let instrument time pass."""
        self.seconds += seconds

    def command(self, name: str) -> None:
        """A balance has none."""

    def figures(self) -> str:
        """Mass to 0.01 g."""
        swing = 4 * math.exp(-self.seconds / 0.8) * math.cos(6 * self.seconds)
        water = self.its.water_g * math.exp(-self.seconds / (60 * self.its.drying_min))
        return f"mass={self.its.mass_g + water + swing + self.dice.gauss(0, self.its.noise / 100):.2f}"


class Level:
    """A water level over a soil that drinks: quickly at first, then steadily."""

    def __init__(self, its: Setting, dice: random.Random) -> None:
        self.its, self.dice, self.seconds = its, dice, 0.0

    @property
    def sunk_mm(self) -> float:
        """Water that the soil has taken, mm: `S sqrt(t) + A t`."""
        minutes = self.seconds / 60
        return self.its.sorptivity_mm_min05 * math.sqrt(minutes) + self.its.fall_mm_min * minutes

    @property
    def troubled(self) -> bool:
        """Whether the moment of its trouble has come."""
        return self.sunk_mm >= self.its.at_mm

    def advance(self, seconds: float) -> None:
        """Let instrument time pass."""
        self.seconds += seconds

    def command(self, name: str) -> None:
        """A level sensor has none."""

    def figures(self) -> str:
        """Level to 0.1 mm; a float may stick for 4 mm, a stand may be knocked 6 mm higher."""
        its, sunk = self.its, self.sunk_mm
        if "sticking" in its.trouble and its.at_mm <= sunk < its.at_mm + 4:
            sunk = its.at_mm
        if "datum" in its.trouble and self.troubled:
            sunk -= 6.0
        return f"level={its.level_mm - sunk + self.dice.gauss(0, its.noise / 2):.1f}"


class Plate:
    """A jack on a plate: at each start a hand pumps to the next of its loads, or lets down to it; the ground sinks at
    once and creeps with the logarithm of time; the pump leaks a little, and the hand tops it up at another `top`."""

    def __init__(self, its: Setting, dice: random.Random) -> None:
        self.its, self.dice = its, dice
        self.ground = Ground(
            its.soft_mm,
            its.bends_mm,
            its.stays_ratio,
            its.again_mm,
            its.creep_mm,
            its.greatest_mn_m2,
            its.tilts_ratio,
            its.ultimate_mn_m2,
            its.gives_mm,
        )
        self.load_kn = self.wanted_kn = self.top = self.down = 0.0
        self.next = 0
        self.held_s = self.seconds = 0.0
        self.cycle = "first"
        if its.running:
            self.command("start")

    @property
    def troubled(self) -> bool:
        """Whether the moment of its trouble has come: at the fourth of its loads."""
        return self.next > 3

    def sigma(self, load_kn: float) -> float:
        """The stress of a load, MN/m²."""
        return 1000 * load_kn / self.its.area_mm2

    def advance(self, seconds: float) -> None:
        """Let instrument time pass: the hand pumps, the pump leaks, the ground creeps."""
        self.seconds += seconds
        wanted = min(self.wanted_kn, self.its.reaction_kn) if "lifting" in self.its.trouble else self.wanted_kn
        step = PUMPS_KN_S * seconds
        if abs(wanted - self.load_kn) > 1e-9 and self.held_s == 0.0:
            self.load_kn += max(-step, min(step, wanted - self.load_kn))
            self.held_s = 1e-9 if abs(wanted - self.load_kn) <= 1e-9 else 0.0
            return
        self.held_s += seconds
        leaks = LEAKS_MIN * (8 if "leaking" in self.its.trouble and self.troubled else 1)
        self.load_kn *= 1 - leaks * seconds / 60

    def command(self, name: str) -> None:
        """Start: to the next load. Top: back up to this one. Back: all off, to begin again."""
        if name == "start" and self.next < len(self.its.loads):
            wanted = self.its.loads[self.next]
            if wanted < 0.95 * self.wanted_kn and self.cycle != "again":
                self.cycle = "down"
            elif self.cycle == "down" and wanted > self.wanted_kn:
                self.cycle, self.down = "again", self.sigma(self.wanted_kn)
            self.wanted_kn, self.next, self.held_s = wanted, self.next + 1, 0.0
            self.top = max(self.top, self.sigma(wanted))
        elif name == "top":
            self.held_s = max(self.held_s, 1e-9)
            self.load_kn = self.wanted_kn
        elif name == "back":
            self.__init__(self.its, self.dice)  # type: ignore[misc]

    def sunk_mm(self) -> float:
        """How far the plate's middle has sunk, mm."""
        sigma = (
            min(self.sigma(self.load_kn), self.sigma(self.wanted_kn))
            if self.held_s == 0
            else self.sigma(self.wanted_kn)
        )
        if "lifting" in self.its.trouble:
            sigma = min(sigma, self.sigma(self.its.reaction_kn))
        if self.cycle == "down":
            return self.ground.back_mm(sigma, self.top)
        if self.cycle == "again":
            return self.ground.again_at_mm(sigma, self.down, self.top)
        creep = self.ground.creeps_mm(sigma)
        rests = max(1.0, creep / (LN10 * 0.02))
        minutes = max(self.held_s / 60, 0.02)
        sunk = self.ground.first_mm(sigma) + creep * math.log10(min(minutes, 1e5) / rests)
        if "stone" in self.its.trouble:
            sunk *= 0.35 if self.next <= 3 else 1.0
        return max(0.0, sunk)

    def figures(self) -> str:
        """Pump to 0.1 bar, load to 0.01 kN, each gauge to 0.01 mm, with the troubles of this moment."""
        its, sunk = self.its, self.sunk_mm()
        shown = []
        for i in range(max(1, min(4, its.gauges))):
            lean = 1 + its.tilts_ratio * math.cos(2 * math.pi * i / its.gauges) if its.gauges > 1 else 1.0
            mm = sunk * lean + self.dice.gauss(0, its.noise / 50)
            if "datum" in its.trouble and self.troubled:
                mm -= 1.2
            if "warming" in its.trouble:
                mm -= 0.03 * self.seconds / 60
            if "backwards" in its.trouble and i == 1:
                mm = -mm
            shown.append(f"gauge_{'abcd'[i]}={mm:.2f}")
        load = max(0.0, self.load_kn)
        return f"pressure={load / (0.01 * its.piston_cm2):.1f} load={load:.2f} {' '.join(shown)}"


def _of_water(kind: type[Body]) -> Callable[[Setting, random.Random], Body]:
    return lambda its, dice: kind(its.water, its.trouble, its.noise, its.running, dice)


BODIES: dict[
    str, Callable[[Setting, random.Random], Frame | PressureCell | Torque | Balance | Level | Plate | Body]
] = {
    **{name: _of_water(kind) for name, kind in WATER_BODIES.items()},
    "plate": Plate,
    "frame": Frame,
    "press": Press,
    "shear": Shear,
    "cell": PressureCell,
    "torque": Torque,
    "balance": Balance,
    "level": Level,
}
