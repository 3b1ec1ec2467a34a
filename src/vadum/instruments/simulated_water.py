"""Simulated instruments of tests of water: level heads, a reservoir, a manifold with a balance, a pH meter."""

import math
import random
from typing import NamedTuple

from vadum.soil.shared.infiltration import Curve, Cylinder

EMPTY_MM = 2.0
WETS_S = 300.0
DAY_S = 86400.0


class WaterSetting(NamedTuple):
    """What a simulated instrument of water is set to.

    `ks_cm_s` are the conductivities under three level heads, each over a cylinder of 50 mm radius driven 50 mm, filled
    to `start_mm` in ground that takes up `gains_ratio` of its volume with `suction_cm`. A reservoir falls steadily at
    `fall_mm_min`, faster at first by `wets_ratio`, and is warmed by `sun_c_h`, each degree moving it by `mm_c`. A
    manifold holds `cells`, each `wet_g` above its `settled_g` and settling within `settles_days`. A pH meter is dipped
    into the next of `phs` at each start; its slope drifts by `drifts_ph_h`; `offset_ph` is an old buffer's.
    """

    ks_cm_s: tuple[float, ...] = (3.1e-3, 3.4e-3, 1.3e-3)
    start_mm: float = 420.0
    gains_ratio: float = 0.29
    suction_cm: float = 11.0
    leaks_mm: float = 90.0
    fall_mm_min: float = 4.9
    wets_ratio: float = 1.2
    sun_c_h: float = 0.0
    mm_c: float = 1.8
    temperature_c: float = 24.8
    cells: int = 6
    settled_g: float = 580.0
    wet_g: float = 8.0
    settles_days: float = 0.7
    pressure_kpa: float = 20.0
    phs: tuple[float, ...] = (12.45, 12.08, 12.27, 12.38, 12.44, 12.45)
    drifts_ph_h: float = 0.0
    offset_ph: float = 0.0


class Body:
    """What all of them have: settings, troubles, time, and a start."""

    def __init__(
        self, its: WaterSetting, trouble: tuple[str, ...], noise: float, running: bool, dice: random.Random
    ) -> None:
        self.its, self.trouble, self.noise, self.dice = its, trouble, noise, dice
        self.seconds, self.running = 0.0, running

    @property
    def troubled(self) -> bool:
        """Whether the moment of its trouble has come: three minutes in."""
        return self.seconds > 180.0

    def advance(self, seconds: float) -> None:
        """Let instrument time pass."""
        self.seconds += seconds if self.running else 0.0

    def command(self, name: str) -> None:
        """Start, stop, and back to where it began."""
        if name == "back":
            self.seconds = 0.0
        else:
            self.running = name != "stop"

    def figures(self) -> str:
        """One line's figures."""
        raise NotImplementedError


class LevelHeads(Body):
    """Three level heads on cylinders that drain from the start on; the second may leak at first, hang, or jump."""

    def __init__(
        self, its: WaterSetting, trouble: tuple[str, ...], noise: float, running: bool, dice: random.Random
    ) -> None:
        super().__init__(its, trouble, noise, running, dice)
        start = its.start_mm / 10
        self._curve = Curve(Cylinder(5.0, 5.0, its.gains_ratio, start), 0.0)
        self._times = self._curve.times_of_one(its.suction_cm)
        self._hangs: float | None = None

    def _level(self, n: int) -> float:
        import numpy as np

        k = self.its.ks_cm_s[n]
        level = 10 * float(np.interp(self.seconds * k, self._times, self._curve.levels))
        if n == 1 and "leaking" in self.trouble:
            level -= self.its.leaks_mm * (1 - math.exp(-self.seconds / 240))
        if n == 1 and self.troubled:
            if "flat" in self.trouble:
                self._hangs = level if self._hangs is None else self._hangs
                return self._hangs
            if "jumps" in self.trouble:
                level += 30.0
        return max(level + self.dice.gauss(0, 3 * self.noise), EMPTY_MM * self.dice.random())

    def figures(self) -> str:
        """Each level to 0.1 mm."""
        return " ".join(f"level_{n + 1}={self._level(n):.1f}" for n in range(len(self.its.ks_cm_s)))


class Reservoir(Body):
    """A sealed reservoir over a well: it falls, and is a thermometer in the sun."""

    def figures(self) -> str:
        """Level grown since the start, to 0.1 mm, and the water's temperature to 0.1 °C."""
        its, minutes = self.its, self.seconds / 60
        warmed = its.sun_c_h * self.seconds / 3600 if "warming" in self.trouble else 0.0
        wets = its.wets_ratio * WETS_S / 60 * (1 - math.exp(-self.seconds / WETS_S))
        level = its.fall_mm_min * (minutes + wets) - its.mm_c * warmed
        return (
            f"level={level + self.dice.gauss(0, self.noise / 2):.1f} "
            f"temperature={its.temperature_c + warmed + self.dice.gauss(0, 0.02):.1f}"
        )


class Manifold(Body):
    """A pressure line with a balance beside it: at each start the next cell hangs on the balance; they lose water by
    the day."""

    def __init__(
        self, its: WaterSetting, trouble: tuple[str, ...], noise: float, running: bool, dice: random.Random
    ) -> None:
        super().__init__(its, trouble, noise, True, dice)
        self.cell = 0

    def command(self, name: str) -> None:
        """Start: the next cell on the balance."""
        if name == "start":
            self.cell = (self.cell + 1) % max(1, self.its.cells)
        elif name == "back":
            self.seconds, self.cell = 0.0, 0

    def figures(self) -> str:
        """Pressure to 0.1 kPa, mass to 0.01 g."""
        its = self.its
        left = its.wet_g * math.exp(-self.seconds / DAY_S / its.settles_days)
        leaks = 0.3 * self.seconds / DAY_S if "leaking" in self.trouble and self.cell == 1 else 0.0
        mass = its.settled_g + 0.7 * self.cell + left - leaks + self.dice.gauss(0, self.noise / 20)
        pressure = its.pressure_kpa * (0.9 if "drift" in self.trouble and self.troubled else 1.0)
        return f"pressure={pressure + self.dice.gauss(0, 0.02):.1f} mass={mass:.2f}"


class PhMeter(Body):
    """A pH meter in slurry: dipped into the next bottle at each start it comes to rest within a minute; its slope may
    drift, and a buffer that was old shifts everything."""

    def __init__(
        self, its: WaterSetting, trouble: tuple[str, ...], noise: float, running: bool, dice: random.Random
    ) -> None:
        super().__init__(its, trouble, noise, True, dice)
        self.bottle, self.dipped_s, self.was = 0, -1e6, its.phs[0]

    def command(self, name: str) -> None:
        """Start: into the next bottle."""
        if name == "start":
            self.was = self.its.phs[self.bottle]
            self.bottle = min(self.bottle + 1, len(self.its.phs) - 1)
            self.dipped_s = self.seconds
        elif name == "back":
            self.bottle, self.dipped_s, self.was = 0, -1e6, self.its.phs[0]

    def figures(self) -> str:
        """pH to 0.01, temperature to 0.1 °C."""
        its = self.its
        settles = math.exp(-min((self.seconds - self.dipped_s) / 12, 700.0))
        ph = its.phs[self.bottle] + (self.was - its.phs[self.bottle]) * settles
        if "drift" in self.trouble:
            ph -= (its.drifts_ph_h or 0.3) * self.seconds / 3600
        if "old buffer" in self.trouble:
            ph += its.offset_ph or -0.12
        ph -= 0.03 * (its.temperature_c - 25.0)  # a warm slurry reads low
        return (
            f"ph={ph + self.dice.gauss(0, self.noise / 50):.2f} "
            f"temperature={its.temperature_c + self.dice.gauss(0, 0.02):.1f}"
        )


WATER_BODIES: dict[str, type[Body]] = {
    "levels": LevelHeads,
    "reservoir": Reservoir,
    "manifold": Manifold,
    "ph": PhMeter,
}
