"""A force that is read by a load cell or by a proving ring: what a record says of it, and what a reading comes to."""

from collections.abc import Iterator, Sequence
from typing import Any, Literal

from pydantic import Field

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import Day, Number, RecordPart, known, reading
from vadum.soil.contract.rules import Seen
from vadum.soil.shared.proving_ring import Ring, RingTable, ring_force_kn, table_of

READERS = (("load_cell", "load cell"), ("proving_ring", "proving ring"))


class ReadsForce(RecordPart):
    """What reads the force of a series: a load cell, or a ring with its factor or its table."""

    load_by: Literal["load cell", "proving ring"] | None = Field(None, title="force is read by")
    load_cell: str | None = Field(None, title="load cell", max_length=40)
    load_cell_most_n: Number | None = reading("load cell reads up to", above=0)
    load_cell_due_on: Day | None = Field(None, title="load cell's calibration due")
    load_cell_in_date: Literal["yes", "no"] | None = Field(None, title="load cell in date when used")
    proving_ring: str | None = Field(None, title="proving ring", max_length=40)
    ring_factor_n_div: Number | None = reading("ring factor", above=0)
    ring_table: RingTable | None = Field(None, title="ring table, div kN; div kN …", max_length=4000)
    ring_most_div: Number | None = reading("ring reads up to", above=0)
    proving_ring_due_on: Day | None = Field(None, title="ring's calibration due")
    proving_ring_in_date: Literal["yes", "no"] | None = Field(None, title="ring in date when used")


FIELDS = tuple(ReadsForce.model_fields)


def ring_of(record: ReadsForce) -> Ring | None:
    """The ring's calibration; None where the force is read otherwise."""
    if record.ring_table is not None:
        return Ring(table_of(record.ring_table), None, None)
    if known(record.ring_factor_n_div) and record.ring_factor_n_div > 0:
        return Ring((), record.ring_factor_n_div, record.ring_most_div if known(record.ring_most_div) else None)
    return None


def force_known(record: ReadsForce) -> bool:
    """Whether a reading can become a force."""
    return record.load_by == "load cell" or record.load_cell is not None or ring_of(record) is not None


def net_force_n(row: Any, ring: Ring | None, friction_n: float) -> float | None:
    """The net force of a reading: by the cell or the ring's calibration, less the friction of the empty run.

    Parameters: `row` with `force_n` in N or `ring_div` in divisions; `ring`; `friction_n` in N.
    Returns: N; None where nothing was read or the ring's calibration does not reach.
    Source: ASTM D2166, D3080.
    """
    if known(row.force_n):
        return float(row.force_n - friction_n)
    if ring is None or not known(row.ring_div):
        return None
    try:
        return 1000 * ring_force_kn(ring, row.ring_div) - friction_n
    except ReductionError:
        return None


def range_of(record: ReadsForce) -> tuple[str, float | None, str]:
    """The field that holds the force as it is read, the most it can show, and its unit: of the ring or of the cell."""
    if record.load_by == "proving ring":
        return "ring_div", record.ring_most_div, "divisions"
    return "force_n", record.load_cell_most_n, "N"


def readers_in_date(record: Any, readers: Sequence[tuple[str, str]] = READERS) -> Iterator[Seen]:
    """Whether what reads was in date when it was used; nothing of one that is not said. `readers` as (field, words)."""
    for field, words in readers:
        state, due = getattr(record, f"{field}_in_date"), getattr(record, f"{field}_due_on")
        if state is not None:
            limit = f"due {due:%d %b %Y}" if due else "calibrated"
            yield Seen(state == "yes", f"{words} {getattr(record, field) or ''}".strip(), limit, (field,))
