"""What a simulated instrument may be, by its kind; the torque gauge, the balance and the level head of them."""

import math
import random
from collections.abc import Callable

from vadum.instruments.simulated_frames import Frame, Press, PressureCell, Shear
from vadum.instruments.simulated_plate import Plate
from vadum.instruments.simulated_setting import Setting
from vadum.instruments.simulated_water import WATER_BODIES, Body


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
