"""What a profile of vane tests comes to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.called import Called, Taken
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean
from vadum.soil.methods.field_vane.record import Depth, Record
from vadum.soil.methods.field_vane.school import VaneSchool
from vadum.soil.methods.field_vane.vane import (
    Divisor,
    Torque,
    chandler_ratio,
    chart_ratio,
    divisor_of,
    effective_stress_kpa,
    middle_m,
    strength_kpa,
    suffix_of,
    torque_of,
)

COARSE = ("sand", "gravel")
MOST_DEPTHS = 200


class Tested(NamedTuple):
    """One depth as it was tested: where, the torques, the strengths in kPa, and what stands beside; each None while it
    is not known. `counts`: it is clay, it was not left out, and its net torque is above nothing."""

    row: int
    depth_m: float | None
    middle_m: float | None
    peak: Torque | None
    remoulded: Torque | None
    friction: Torque | None
    strength_kpa: float | None
    remoulded_kpa: float | None
    effective_kpa: float | None
    noted: str
    counts: bool

    @property
    def prefix(self) -> str:
        """What the keys of this depth's values begin with."""
        return f"d{self.row + 1}_"

    @property
    def words(self) -> str:
        """The depth as it is said."""
        return f"{self.depth_m:.2f} m" if self.depth_m is not None else f"depth {self.row + 1}"

    @property
    def sensitivity(self) -> float | None:
        """Peak over remoulded strength."""
        if self.strength_kpa is None or self.remoulded_kpa is None or self.remoulded_kpa <= 0:
            return None
        return self.strength_kpa / self.remoulded_kpa

    @property
    def stress_ratio(self) -> float | None:
        """Strength over the effective stress in the ground."""
        if self.strength_kpa is None or self.effective_kpa is None or self.effective_kpa <= 0:
            return None
        return self.strength_kpa / self.effective_kpa


class Facts(NamedTuple):
    """The vane's divisor, every depth as tested, the mean of those that count, the factor of a design, the calls."""

    record: Record
    divisor: Divisor | None
    tested: tuple[Tested, ...]
    mean_kpa: float | None
    mu: float | None
    plasticity_percent: float | None
    called: Called

    @property
    def over(self) -> bool:
        """Whether the profile is finished."""
        return self.called.over

    @property
    def counting(self) -> tuple[Tested, ...]:
        """The depths that count, shallow to deep."""
        found = [t for t in self.tested if t.counts]
        return tuple(sorted(found, key=lambda t: t.depth_m or 0.0))


def planned_m(record: Record) -> tuple[float, ...]:
    """The depths that were planned, m to a hundredth."""
    first, step, last = record.first_m, record.step_m, record.last_m
    if not (known(first) and known(step) and known(last)) or step <= 0 or last < first:
        return ()
    many = min(int((last - first) / step + 1e-6) + 1, MOST_DEPTHS)
    return tuple(round(first + i * step, 2) for i in range(many))


def reads_of(record: Record) -> tuple[str, ...]:
    """What is read at each depth, in its order, by this gauge."""
    end = suffix_of(record)
    depth = () if planned_m(record) else ("depth_m",)
    friction = () if record.coupling == "none" else (f"friction_{end}",)
    return (*depth, "pushed_at", f"peak_{end}", "peak_min", *friction, "turns_count", f"remoulded_{end}")


def finished(row: Depth, record: Record) -> bool:
    """Whether nothing more is read at a depth: everything was, it was left out, or it is no clay."""
    if row.excluded_because or row.noted in COARSE:
        return True
    return all(getattr(row, field) is not None for field in reads_of(record) if field != "pushed_at")


def _tested(record: Record, school: VaneSchool, index: int, row: Depth, divisor: Divisor | None) -> Tested:
    planned = planned_m(record)
    depth = row.depth_m if known(row.depth_m) else (planned[index] if index < len(planned) else None)
    middle = middle_m(depth, record, school) if depth is not None else None
    peak, remoulded, friction = (torque_of(record, row, what) for what in ("peak", "remoulded", "friction"))
    rod = friction.n_m if friction else 0.0
    strong, weak = (strength_kpa(t.n_m - rod, divisor.n_m_kpa) if t and divisor else None for t in (peak, remoulded))
    return Tested(
        index,
        depth,
        middle,
        peak,
        remoulded,
        friction,
        strong,
        weak,
        effective_stress_kpa(record, middle) if middle is not None else None,
        row.noted or "",
        strong is not None and strong > 0 and not row.excluded_because and row.noted not in COARSE,
    )


def _called(record: Record, school: VaneSchool, tested: tuple[Tested, ...]) -> Called:
    planned = planned_m(record)
    open_row = next((i for i, row in enumerate(record.depths) if not finished(row, record)), None)
    ended = record.ended == "yes"
    full = bool(planned) and len(record.depths) >= len(planned) and open_row is None
    taken = [
        Taken(
            t.row,
            t.depth_m,
            record.depths[t.row].peak_at,
            False,
            "" if t.strength_kpa is None else f"{t.strength_kpa:.1f}",
        )
        for t in tested
    ]
    return Called(
        key="depths",
        words="vane",
        by="depth",
        unit="m",
        at=planned or tuple(t.depth_m or 0.0 for t in tested),
        reads=reads_of(record),
        over=ended or full,
        taken=tuple(taken),
        rows=len(record.depths),
        open_row=open_row,
        travel_field="depth_m",
        moment_field="peak_at",
        note_field="noted",
        notes=("stone", "sand", "gravel", "fissures", "roots"),
        stop_field="ended",
        stops=("yes",),
        channels={"torque": f"peak_{suffix_of(record)}"},
        shows="strength, kPa",
        says={
            "depth_m": ("How deep is the vane?", "By the marks on its rod."),
            "pushed_at": (
                "Push the vane to {}.",
                "Soft-headed hammer, the lifting pin out while it drives. Record when it is there; begin within 5 min.",
            ),
            f"peak_{suffix_of(record)}": (
                "Turn slowly at {}; read the greatest.",
                "{:g} to {:g} degrees a minute; note the time to it.".format(*school.rate_degrees_min),
            ),
            "peak_min": ("How long until the greatest, at {}?", "From the first turn; 2 to 5 min is right."),
            f"friction_{suffix_of(record)}": (
                "The rod's own friction at {}.",
                "By the slip coupling, or the blank rod.",
            ),
            "turns_count": (
                f"{school.turns_count} full turns at {{}}, without pushing.",
                "Quickly, and count them; then read again within a minute.",
            ),
            f"remoulded_{suffix_of(record)}": ("Turn slowly again at {}: remoulded.", "Within a minute of the turns."),
        },
        alone=("pushed_at", "turns_count", f"remoulded_{suffix_of(record)}"),
    )


def _mu(record: Record, school: VaneSchool, plasticity: float | None) -> float | None:
    if plasticity is None or school.design == "none":
        return None
    try:
        if school.design == "by plasticity and time to failure":
            return chandler_ratio(plasticity, school.failure_min)
        return chart_ratio(plasticity)
    except ReductionError:
        return None


def facts(record: Record, school: VaneSchool) -> Facts:
    """The facts of a record under a school."""
    divisor = divisor_of(record)
    tested = tuple(_tested(record, school, i, row, divisor) for i, row in enumerate(record.depths))
    good = [t.strength_kpa for t in tested if t.counts and t.strength_kpa is not None]
    index, liquid, plastic = record.plasticity_index_percent, record.liquid_limit_percent, record.plastic_limit_percent
    plasticity = index if known(index) else liquid - plastic if known(liquid) and known(plastic) else None
    return Facts(
        record,
        divisor,
        tested,
        mean(good) if good else None,
        _mu(record, school, plasticity),
        plasticity,
        _called(record, school, tested),
    )
