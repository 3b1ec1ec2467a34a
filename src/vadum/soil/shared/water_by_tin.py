"""Water content by weighing a tin: the row that three methods share, its formula and its checks."""

from collections.abc import Callable, Iterator
from typing import Any, Literal, NamedTuple

from pydantic import Field

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Line, Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_most, said
from vadum.soil.shared.specimen import Specimen

SOURCE = "ASTM D2216, ISO 17892-1"


class TinRow(RecordPart):
    """A tin's number and its three masses."""

    tin: str | None = Field(None, title="tin", max_length=20)
    mass_tin_g: Number | None = Field(None, title="empty tin")
    mass_tin_register_g: Number | None = Field(None, title="empty tin by the register")
    mass_wet_g: Number | None = Field(None, title="tin + wet soil")
    mass_dry_g: Number | None = Field(None, title="tin + dry soil")


class TimedTin(TinRow):
    """A tin that goes into the oven when its wet mass is read."""

    weighed_wet_at: Moment | None = Field(None, title="into the oven", json_schema_extra={"moment_of": "mass_wet_g"})


class WithBalance(Specimen):
    """The balance used, with the state of its calibration when it was named."""

    balance: str | None = Field(None, title="balance", max_length=40)
    balance_readability_g: Number | None = Field(None, title="balance reads to")
    balance_due_on: Day | None = Field(None, title="balance check due")
    balance_in_date: Literal["yes", "no"] | None = Field(None, title="balance in date when used")


def balance_in_date(facts: Any, school: object) -> Iterator[Verdict]:
    """The balance's check had not lapsed when it was used."""
    record: WithBalance = facts.record
    if record.balance_in_date is None:
        return
    held = record.balance_in_date == "yes"
    yield Verdict(
        rule="balance check in date",
        level="fine" if held else "watch",
        found=f"balance {record.balance}",
        limit=f"due {record.balance_due_on:%d %b %Y}" if record.balance_due_on else "checked",
        source="laboratory setting",
        remedy="" if held else "Check it with its mass in the kit; say on the sheet that it had lapsed.",
        at=("balance",),
    )


def water_content_percent(mass_wet_g: float, mass_dry_g: float, mass_tin_g: float) -> float:
    """Gravimetric water content, percent of the dry soil mass.

    `w = 100 (M1 - M2) / (M2 - Mc)`

    Parameters: tin + wet soil M1, tin + dry soil M2, tin Mc, all in g.
    Raises ReductionError unless `M1 >= M2 > Mc >= 0`.
    Source: ASTM D2216; ISO 17892-1.

    Returns: %.

    >>> round(water_content_percent(168.92, 139.38, 21.37), 5)
    25.03178
    """
    if not (mass_wet_g >= mass_dry_g > mass_tin_g >= 0):
        seen = f"wet {plain(mass_wet_g)}, dry {plain(mass_dry_g)}, tin {plain(mass_tin_g)} g"
        raise ReductionError("water content", seen, "wet >= dry > tin >= 0")
    return 100 * (mass_wet_g - mass_dry_g) / (mass_dry_g - mass_tin_g)


class Masses(NamedTuple):
    """The three masses of a tin, possible together: tin, tin + wet soil, tin + dry soil, all g."""

    tin_g: float
    wet_g: float
    dry_g: float

    @property
    def water_percent(self) -> float:
        """Water content, percent of the dry soil."""
        return water_content_percent(self.wet_g, self.dry_g, self.tin_g)

    def line(self, gives: str) -> Line:
        """The working of its water content."""
        return water_line(gives, self.wet_g, self.dry_g, self.tin_g)


def masses_of(row: TinRow) -> Masses | None:
    """The row's masses, together; None while one is missing or they are impossible."""
    tin, wet, dry = row.mass_tin_g, row.mass_wet_g, row.mass_dry_g
    if not (known(tin) and known(wet) and known(dry)) or not wet >= dry > tin >= 0:
        return None
    return Masses(tin, wet, dry)


def measured_percent(row: TinRow) -> float | None:
    """The row's water content in percent, or None while a mass is missing or impossible."""
    if not (known(row.mass_tin_g) and known(row.mass_wet_g) and known(row.mass_dry_g)):
        return None
    try:
        return water_content_percent(row.mass_wet_g, row.mass_dry_g, row.mass_tin_g)
    except ReductionError:
        return None


def water_line(gives: str, mass_wet_g: float, mass_dry_g: float, mass_tin_g: float) -> Line:
    """The working of one water content."""
    return Line(
        gives=gives,
        symbol="w",
        formula="100 * (M_1 - M_2) / (M_2 - M_c)",
        inputs={"M_1": mass_wet_g, "M_2": mass_dry_g, "M_c": mass_tin_g},
        value=water_content_percent(mass_wet_g, mass_dry_g, mass_tin_g),
        unit="%",
        source=SOURCE,
    )


def masses_possible(
    mass_tin_g: float | None, mass_wet_g: float | None, mass_dry_g: float | None, at: str, name: str
) -> Iterator[Verdict]:
    """Stop verdicts for masses that physics forbids; `at` is the row's path, `name` what a person calls the row."""
    named = {"mass_tin_g": mass_tin_g, "mass_wet_g": mass_wet_g, "mass_dry_g": mass_dry_g}
    words = {"mass_tin_g": "empty tin", "mass_wet_g": "tin + wet soil", "mass_dry_g": "tin + dry soil"}
    for field, mass in named.items():
        if mass is not None and (not known(mass) or mass < 0):
            yield Verdict(
                rule="a mass is a number from zero up",
                level="stop",
                found=f"{name}: {words[field]} reads {mass}",
                limit="0 g or more",
                source="physics",
                remedy="Weigh again and strike this reading.",
                at=(f"{at}{field}",),
            )
    orders = (
        ("mass_dry_g", "mass_wet_g", "dry mass above wet mass", False),
        ("mass_tin_g", "mass_dry_g", "empty tin not below tin + dry soil", True),
        ("mass_tin_g", "mass_wet_g", "empty tin not below tin + wet soil", True),
    )
    for lower, upper, fault, strict in orders:
        low, high = named[lower], named[upper]
        if known(low) and known(high) and (low > high or (strict and low == high)):
            yield Verdict(
                rule="wet soil weighs more than dry soil, dry soil more than nothing",
                level="stop",
                found=f"{name}: {fault}: {plain(low, 6)} {'≥' if strict else '>'} {plain(high, 6)} g",
                limit="tin < tin + dry <= tin + wet",
                source="physics",
                remedy="Look at the digits and the tin's number; strike the wrong one.",
                at=(f"{at}{lower}", f"{at}{upper}"),
            )


def tin_possible(name: str) -> Judge:
    """A rule: the record's own tin has masses that physics allows; `name` is what the tin holds."""

    def judge(facts: Any, school: object) -> Iterator[Verdict]:
        """Wet soil weighs more than dry soil, dry soil more than nothing."""
        r: TinRow = facts.record
        yield from masses_possible(r.mass_tin_g, r.mass_wet_g, r.mass_dry_g, "", name)

    return judge


MOST_TARE_DRIFT_G = 0.05  # a clean tin weighs what it weighed; laboratory setting


def tare_of(row: TinRow, at: str, name: str) -> Seen | None:
    """A tin that was weighed against what its register says: another tin, or one with soil left in it."""
    weighed, register = row.mass_tin_g, row.mass_tin_register_g
    if not (known(weighed) and known(register)):
        return None
    words = f"{name}: weighed {plain(weighed, 6)}, register {plain(register, 6)} g: {{}} apart"
    where = (f"{at}mass_tin_g",)
    # A tin that is full cannot be weighed empty: its number can be looked at, and its tare when it is empty again.
    full = row.mass_wet_g is not None
    do = "Is it that tin? Look at its number; weigh it empty, clean and dry, when its soil is out." if full else ""
    return at_most(abs(weighed - register), MOST_TARE_DRIFT_G, "g", words, digits=3, at=where, do=do)


def tin_registered(noun: str, at: str = "mass_tin_g") -> Rule:
    """A rule: the record's own tin agrees with its register."""
    return Rule(
        "tin agrees with its register",
        lambda f, s: tare_of(f.record, at.removesuffix("mass_tin_g"), f"tin {f.record.tin or ''}".strip()),
        at=(at,),
        source=LABORATORY,
        do="Clean, dry and weigh the tin; is its number right? Correct the register.",
    )


def _tares(rows: str, noun: str) -> Callable[[Any, Any], Iterator[Seen]]:
    def sees(f: Any, s: Any) -> Iterator[Seen]:
        for i, row in enumerate(getattr(f.record, rows)):
            seen = None if getattr(row, "excluded_because", None) else tare_of(row, f"{rows}[{i}].", f"{noun} {i + 1}")
            if seen:
                yield seen

    return sees


def _once(rows: str) -> Callable[[Any, Any], Seen | None]:
    def sees(f: Any, s: Any) -> Seen | None:
        named: dict[str, int] = {}
        for i, row in enumerate(getattr(f.record, rows)):
            tin = (row.tin or "").strip().casefold()
            if not tin or getattr(row, "excluded_because", None):
                continue
            if tin in named:
                words = f"tin {row.tin} stands at {named[tin] + 1} and {i + 1}"
                return said(False, words, "each tin once", (f"{rows}[{i}].tin", f"{rows}[{named[tin]}].tin"))
            named[tin] = i
        return said(True, f"{len(named)} tins", "each tin once") if len(named) > 1 else None

    return sees


def tins_told_apart(rows: str, noun: str) -> tuple[Rule, Rule]:
    """The rules on the tins of a list: each is named once, and weighs empty what its register says."""
    return (
        Rule(
            # One tin cannot lie in the oven twice: a number was typed wrong, and a tare with it.
            "each tin is in the run once",
            _once(rows),
            source=PHYSICS,
            do="One of the two numbers is wrong: look at the tins, correct it, and its tare with it.",
        ),
        Rule(
            "tin agrees with its register",
            _tares(rows, noun),
            source=LABORATORY,
            do="Clean, dry and weigh the tin; is its number right? Correct the register.",
        ),
    )


def tins_possible(rows: str, noun: str, affects: tuple[str, ...] = ()) -> Judge:
    """A rule: each tin of a list that is not left out has masses that physics allows."""

    def judge(facts: Any, school: object) -> Iterator[Verdict]:
        """Wet soil weighs more than dry soil, dry soil more than nothing."""
        for i, r in enumerate(getattr(facts.record, rows)):
            if getattr(r, "excluded_because", None):
                continue
            at = f"{rows}[{i}]."
            for verdict in masses_possible(r.mass_tin_g, r.mass_wet_g, r.mass_dry_g, at, f"{noun} {i + 1}"):
                yield verdict.model_copy(update={"affects": affects}) if affects else verdict

    return judge


LOOK = "Look at the digits; strike the wrong one."


def full_above_empty(
    rule: str, full: str, empty: str, vessel: str, affects: tuple[str, ...] = (), do: str = LOOK
) -> Judge:
    """A rule: a vessel with soil weighs more than the vessel."""

    def judge(facts: Any, school: object) -> Iterator[Verdict]:
        """A vessel with soil weighs more than the vessel."""
        more, less = getattr(facts.record, full), getattr(facts.record, empty)
        if known(more) and known(less) and more <= less:
            yield Verdict(
                rule=rule,
                level="stop",
                found=f"{plain(more, 6)} ≤ {plain(less, 6)} g",
                limit=f"{vessel} < {vessel} + soil",
                source="physics",
                remedy=do,
                at=(full, empty),
                affects=affects,
            )

    return judge


# What the columns of a foreign table of tins are called.
TIN_SYNONYMS: dict[str, tuple[str, ...]] = {
    "mass_wet_g": ("wet", "moist"),
    "mass_dry_g": ("dry",),
    "mass_tin_g": ("tare", "tin mass", "empty"),
    "tin": ("tin", "container", "can", "no"),
}
