"""Plates of a job beside each other: modulus against ratio, bearing ratio and compaction, by layer and place."""

from collections.abc import Iterable
from typing import Any, NamedTuple

from vadum.soil.contract.compare import at_least, at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Cell, Outcome, Table


class Control(NamedTuple):
    """One plate as field control sees it: moduli in MN/m², the job's corner, what stands beside it (None: unknown)."""

    code: str
    where: str
    layer: str
    chainage_m: float | None
    ev1: float | None
    ev2: float
    ratio: float | None
    least_ev2: float | None
    most_ratio: float | None
    bearing_percent: float | None = None
    compaction_percent: float | None = None
    provisional: bool = False

    @property
    def held(self) -> bool | None:
        """Whether it lies in the job's corner; None where the job sets none."""
        if self.least_ev2 is None and self.most_ratio is None:
            return None
        stiff = self.least_ev2 is None or at_least(self.ev2, self.least_ev2)
        dense = self.most_ratio is None or self.ratio is None or at_most(self.ratio, self.most_ratio)
        return stiff and dense


def _value(outcome: Outcome, key: str) -> float | None:
    found = next((v for v in outcome.values if v.key == key), None)
    return None if found is None or found.withheld or found.estimate else found.value


def control_of(code: str, where: str, record: Any, outcome: Outcome) -> Control | None:
    """A run as field control sees it; None where it gives no modulus of a second loading."""
    ev2 = _value(outcome, "ev2_mn_m2")
    if ev2 is None:
        return None
    least, most = record.least_ev2_mn_m2, record.most_ev_ratio
    compaction = record.compaction_beside_percent
    return Control(
        code,
        where,
        record.layer or "no layer said",
        record.chainage_m if known(record.chainage_m) else None,
        _value(outcome, "ev1_mn_m2"),
        ev2,
        _value(outcome, "ev_ratio"),
        least if known(least) else None,
        most if known(most) else None,
        None,
        compaction if known(compaction) else None,
        any(v.provisional for v in outcome.values if v.key == "ev2_mn_m2"),
    )


def beside(control: Control, outcomes: Iterable[Outcome]) -> Control:
    """The same with the bearing ratio and the degree of compaction that other tests of its sample give."""
    bearing, dense = control.bearing_percent, control.compaction_percent
    for outcome in outcomes:
        bearing = bearing if bearing is not None else _value(outcome, "bearing_ratio_percent")
        dense = dense if dense is not None else _value(outcome, "relative_compaction_percent")
    return control._replace(bearing_percent=bearing, compaction_percent=dense)


def by_layer(controls: Iterable[Control]) -> dict[str, list[Control]]:
    """The plates of each layer along its chainage."""
    found: dict[str, list[Control]] = {}
    for one in sorted(controls, key=lambda c: (c.layer, c.chainage_m is None, c.chainage_m or 0.0, c.code)):
        found.setdefault(one.layer, []).append(one)
    return found


def drawn(controls: Iterable[Control]) -> dict[str, Table]:
    """The series of the pictures: the plates, and the job's corner where one is set."""
    rows: list[dict[str, Cell]] = []
    corner: dict[tuple[float | None, float | None], dict[str, Cell]] = {}
    for one in controls:
        rows.append(
            {
                "code": one.code,
                "layer": one.layer,
                "chainage_m": one.chainage_m,
                "ev2": one.ev2,
                "ratio": one.ratio,
                "bearing": one.bearing_percent,
                "compaction": one.compaction_percent,
                "held": {True: "held", False: "not held", None: "no limit"}[one.held],
            }
        )
        if one.held is not None:
            corner[(one.least_ev2, one.most_ratio)] = {"least": one.least_ev2, "most": one.most_ratio}
    return {"plates": tuple(rows), "corner": tuple(corner.values())}
