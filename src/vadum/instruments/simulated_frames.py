"""Simulated frames: a plunger, a press, a shear carriage and a pressure cell, driven at a steady rate."""

import math
import random

from vadum.instruments.simulated_setting import Setting
from vadum.soil.shared.load_curve import load_curve_of, vertical_mm
from vadum.soil.shared.proving_ring import Ring, divisions_of

FAR_MM = 1e6  # a peak that never comes
# A hand at the crank: how far its pace wanders (share of the rate), over how many seconds, and one step of its will.
WANDERS, WANDERS_S, STEP_OF_PACE = 0.09, 6.0, 1.08


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
