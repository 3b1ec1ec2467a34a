"""A simulated plate under a jack: a hand pumps, the ground sinks and creeps."""

import math
import random

from vadum.instruments.simulated_setting import Setting
from vadum.soil.shared.plate.ground import LN10, Ground

PUMPS_KN_S, LEAKS_MIN = 1.2, 0.002  # a hand at the pump, and what its seals lose of a load in a minute


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
