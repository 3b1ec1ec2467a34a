"""The kit: tins with their tares, balances, devices with their inspections, each a history that only grows."""

import json
import re
from datetime import date, datetime
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber, RecordPart
from vadum.soil.contract.physical_range import problem_of
from vadum.soil.shared.apparatus import CALIBRATIONS, passes
from vadum.soil.shared.device_check import CupInspection, inspect_cup, lapses_on
from vadum.tape.codes import code, plain_text, refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.tables import KitEvent, KitItem

KINDS = {
    "tin": "Tins",
    "cup": "Liquid limit devices",
    "balance": "Balances",
    "sieve": "Sieves",
    "hydrometer": "Hydrometers",
    "pycnometer": "Pycnometers",
    "ring": "Drive rings",
    "mould": "Moulds",
    "proving_ring": "Proving rings",
    "gauge": "Dial gauges",
    "plunger": "Plungers",
    "surcharge": "Surcharge discs",
    "load_cell": "Load cells",
    "vane": "Field vanes",
    "shear_box": "Shear boxes",
    "triaxial_cell": "Triaxial cells",
    "plate": "Loading plates",
    "jack": "Jacks",
    "infiltrometer": "Infiltrometer cylinders",
    "reservoir": "Well reservoirs",
    "rings": "Infiltration rings",
    "pressure_cell": "Pressure cells",
    "moisture_probe": "Moisture probes",
    "ph_meter": "pH meters",
    "buffer": "pH buffers",
    "lime": "Limes",
    "instrument": "Instruments",
}

# What holds one soil at a time: taken for another while it does, one of the two numbers is wrong.
VESSELS = (
    "tin",
    "mould",
    "ring",
    "pycnometer",
    "cylinder",
    "shear_box",
    "triaxial_cell",
    "infiltrometer",
    "rings",
    "reservoir",
    "pressure_cell",
)
# Where a piece stands in the laboratory: the kit is shown by what is done with it.
GROUPS: dict[str, tuple[str, ...]] = {
    "Weighing": ("balance", "tin"),
    "Limits and grains": ("cup", "sieve", "hydrometer", "pycnometer"),
    "Density and compaction": ("ring", "mould", "surcharge"),
    "Load and travel": ("load_cell", "proving_ring", "gauge", "plunger", "plate", "jack"),
    "Shear": ("vane", "shear_box", "triaxial_cell"),
    "Water": ("infiltrometer", "reservoir", "rings", "pressure_cell", "moisture_probe"),
    "Lime": ("ph_meter", "buffer", "lime"),
    "Instruments that are heard": ("instrument",),
}
# One of a kind, where its name does not say it.
ONE = {
    "cup": "liquid limit device",
    "ring": "drive ring",
    "gauge": "dial gauge",
    "surcharge": "surcharge discs",
    "vane": "field vane",
    "shear_box": "shear box",
    "plate": "loading plate",
    "reservoir": "well reservoir",
    "rings": "pair of infiltration rings",
    "infiltrometer": "infiltrometer cylinder",
    "pressure_cell": "pressure cell",
    "ph_meter": "pH meter",
    "buffer": "bottle of buffer",
    "lime": "bag of lime",
}


def one_of(kind: str) -> str:
    """What one piece of a kind is called.

    >>> one_of("vane"), one_of("load_cell"), one_of("cup")
    ('field vane', 'load cell', 'liquid limit device')
    """
    return ONE.get(kind, kind.replace("_", " "))


def _known_kind(kind: str) -> str:
    if kind not in KINDS:
        raise ValueError(f"is one of {', '.join(KINDS)}")
    return kind


class NewItem(BaseModel):
    """An item as it is entered."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    kind: Annotated[str, Field(max_length=20), AfterValidator(_known_kind)]
    code: Annotated[str, Field(min_length=1, max_length=40), AfterValidator(code)]
    title: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""
    interval_days: int | None = Field(None, ge=1, le=3660)
    readability_g: PlainNumber | None = None


PAPER = "paper"  # beside what a calibration measured: who says so
LOOKED = ("tare", "inspection", "calibration")


class State(NamedTuple):
    """An item as it stands on a day."""

    item: KitItem
    events: tuple[tuple[KitEvent, dict[str, Any]], ...]
    due_on: date | None
    word: Literal["in date", "lapses soon", "lapsed", "never looked at", "never weighed", "failed", "retired"]

    @property
    def tare_g(self) -> float | None:
        """A tin's newest tare, g."""
        return next((data["mass_g"] for event, data in reversed(self.events) if event.kind == "tare"), None)

    @property
    def last(self) -> tuple[KitEvent, dict[str, Any]] | None:
        """The newest inspection, calibration or tare."""
        return next((e for e in reversed(self.events) if e[0].kind in LOOKED), None)


def find(session: Session, kind: str, code: str) -> KitItem | None:
    """The item of that kind and number."""
    return session.execute(
        select(KitItem).where(col(KitItem.kind) == kind, col(KitItem.code) == code.strip())
    ).scalar_one_or_none()


def _state(item: KitItem, events: list[KitEvent], today: date) -> State:
    loaded = tuple((event, json.loads(event.data)) for event in events)
    if item.retired_at is not None:
        return State(item, loaded, None, "retired")
    if item.interval_days is None:
        if item.kind == "tin":
            return State(item, loaded, None, "in date" if loaded else "never weighed")
        return State(item, loaded, None, "in date" if loaded else "never looked at")
    looks = [event for event in events if event.kind in ("inspection", "calibration")]
    if not looks:
        return State(item, loaded, None, "never looked at")
    due = lapses_on(looks[-1].at.date(), item.interval_days)
    word: Literal["in date", "lapses soon", "lapsed", "failed"] = "in date"
    if not looks[-1].passed:
        word = "failed"
    elif today > due:
        word = "lapsed"
    elif (due - today).days <= 31:
        word = "lapses soon"
    return State(item, loaded, due, word)


def state(session: Session, item: KitItem, today: date) -> State:
    """The item's history and whether it is in date."""
    query = select(KitEvent).where(col(KitEvent.item_id) == item.id).order_by(col(KitEvent.at), col(KitEvent.id))
    return _state(item, list(session.execute(query).scalars()), today)


def _first_number(code: str) -> float:
    """The number in a piece's code, so that 9.5 comes before 19."""
    found = re.search(r"\d+(\.\d+)?", code)
    return float(found.group()) if found else 0.0


def states(session: Session, today: date, *, that_lapse: bool = False, retired: bool = False) -> list[State]:
    """All items in use, tins by number, or those that are retired; or only those that are looked at every so often."""
    which = select(KitItem).where(
        col(KitItem.retired_at).is_not(None) if retired else col(KitItem.retired_at).is_(None)
    )
    history = select(KitEvent).order_by(col(KitEvent.at), col(KitEvent.id))
    if that_lapse:
        which = which.where(col(KitItem.interval_days).is_not(None))
        history = history.join(KitItem, col(KitEvent.item_id) == col(KitItem.id)).where(
            col(KitItem.interval_days).is_not(None)
        )
    items = list(session.execute(which).scalars())
    events: dict[int, list[KitEvent]] = {}
    for event in session.execute(history).scalars():
        events.setdefault(event.item_id, []).append(event)
    items.sort(key=lambda i: (list(KINDS).index(i.kind), not i.code.isdigit(), _first_number(i.code), i.code))
    return [_state(item, events.get(item.id or 0, []), today) for item in items]


def add_item(session: Session, new: NewItem) -> KitItem:
    """Register an item; raises FieldError when its number is taken."""
    lock_named(session.connection(), f"kit {new.kind}")
    taken = session.execute(select(col(KitItem.code)).where(col(KitItem.kind) == new.kind)).scalars()
    refuse_alike(new.code, taken, f"another of the {KINDS[new.kind].lower()}")
    item = KitItem(**new.model_dump())
    session.add(item)
    session.flush()
    return item


def _possible(seen: BaseModel) -> None:
    """Raise FieldError for a figure that cannot be: what is wrong here goes into every run that names the piece."""
    for name, value in seen:
        limit = problem_of(name, value)
        if limit:
            raise FieldError(name, f"cannot be: {limit}")


def add_event(
    session: Session, item: KitItem, kind: str, data: dict[str, Any], by: str, at: datetime, passed: bool = True
) -> KitEvent:
    """Add to the item's history."""
    assert item.id is not None
    event = KitEvent(item_id=item.id, at=at, by=by, kind=kind, data=json.dumps(data), passed=passed)
    session.add(event)
    return event


def tare_of(item_id: int, mass_g: float, by: str, at: datetime) -> KitEvent:
    """A weighing of an empty tin as it is kept, not written yet; raises FieldError for a mass no tin has."""
    refuse_tare(mass_g)
    return KitEvent(item_id=item_id, at=at, by=by, kind="tare", data=json.dumps({"mass_g": mass_g}), passed=True)


def retire(session: Session, item: KitItem, reason: str, by: str, at: datetime) -> None:
    """Take a piece out of use: its history stays, and its number brings nothing into a run any more."""
    if item.retired_at is not None:
        raise FieldError("reason", f"{item.code} is retired already")
    if not reason.strip():
        raise FieldError("reason", "say why it is retired")
    add_event(session, item, "retired", {"reason": reason.strip()}, by, at)
    item.retired_at = at
    session.add(item)
    session.flush()


def take_back(session: Session, item: KitItem, by: str, at: datetime) -> None:
    """Take a retired piece into use again."""
    if item.retired_at is None:
        raise FieldError("reason", f"{item.code} is in use")
    add_event(session, item, "taken back", {}, by, at)
    item.retired_at = None
    session.add(item)
    session.flush()


def refuse_tare(mass_g: float) -> None:
    """Raise FieldError for a mass no tin has."""
    if not 0 < mass_g < 100_000:
        raise FieldError("mass_g", f"{mass_g} g is no tin's mass")


def add_tare(session: Session, item: KitItem, mass_g: float, by: str, at: datetime) -> KitEvent:
    """A tin weighed empty, clean and dry; raises FieldError for a mass no tin has."""
    refuse_tare(mass_g)
    return add_event(session, item, "tare", {"mass_g": mass_g}, by, at)


def add_inspection(session: Session, item: KitItem, seen: CupInspection, by: str, at: datetime) -> KitEvent:
    """A device looked at by the rules; it passes when every rule holds."""
    _possible(seen)
    verdicts = list(inspect_cup(seen))
    passed = all(v.level == "fine" for v in verdicts)
    data = seen.model_dump() | {"verdicts": [v.model_dump(mode="json") for v in verdicts]}
    return add_event(session, item, "inspection", data, by, at, passed)


def add_calibration(
    session: Session, item: KitItem, seen: RecordPart, by: str, at: datetime, paper: dict[str, Any] | None = None
) -> KitEvent:
    """A piece measured again; what was seen is what it brings into a run from now on. `paper` says who measured it."""
    _possible(seen)
    data = seen.model_dump(mode="json") | ({PAPER: paper} if paper else {})
    return add_event(session, item, "calibration", data, by, at, passes(item.kind, seen))


def instrument(session: Session, code: str) -> tuple[str, str]:
    """Address and parsing profile of a registered instrument; raises FieldError when there is none."""
    item = find(session, "instrument", code)
    last = state(session, item, date.min).last if item else None  # an address lapses on no day
    if last is None:
        raise FieldError("instrument", f"{code!r} is not registered in the kit with its address")
    return str(last[1]["address"]), str(last[1]["profile"])


def instruments(session: Session) -> list[KitItem]:
    """Every registered instrument, by its code."""
    query = (
        select(KitItem)
        .where(col(KitItem.kind) == "instrument", col(KitItem.retired_at).is_(None))
        .order_by(col(KitItem.code))
    )
    return list(session.execute(query).scalars())


# What naming a piece of kit brings, said at the field that takes its number.
HINTS = {
    "tin": "number brings its tare",
    "device": "brings its inspection",
    "balance": "number brings its step",
    "mould": "number brings mass and volume",
    "ring": "number brings its size",
    "pycnometer": "brings its masses",
    "hydrometer": "number brings its kind",
    "proving_ring": "brings its calibration",
    "gauge": "brings its division",
    "plunger": "brings its diameter",
    "surcharge": "number brings its mass",
    "vane": "number brings its sizes",
    "load_cell": "brings its calibration",
    "shear_box": "brings its size and lever",
    "triaxial_cell": "brings its rating",
    "plate": "number brings its size",
    "jack": "brings its piston",
    "infiltrometer": "number brings its radius",
    "reservoir": "number brings its areas",
    "rings": "number brings their sizes",
    "pressure_cell": "number brings its plate",
    "moisture_probe": "number brings its error",
    "ph_meter": "number brings its slope",
    "buffer": "bottle brings its value and date",
    "lime": "bag brings its CaO and date",
}


def hint_of(field: str) -> str:
    """What is said at a field that takes the number of a piece of kit; empty at any other."""
    return HINTS.get(field, "")


def kind_named(field: str) -> str:
    """The kind of kit whose number a field of that name holds; empty for any other field."""
    return "cup" if field == "device" else (field if field in KINDS else "")


def vessel_of(field: str) -> str:
    """The vessel whose number a field of that name holds, registered in the kit or not; empty for any other field."""
    return field if field in VESSELS else ""


def names_kit(field: str) -> bool:
    """Whether a field of that name holds the number of a piece of kit."""
    return bool(kind_named(field))


class Offered(NamedTuple):
    """A registered piece as a desk offers it: its number, what it is, and the readings that its number brings."""

    code: str
    title: str
    brings: tuple[str, ...]


def offered(session: Session, kinds: frozenset[str], today: date) -> dict[str, list[Offered]]:
    """The pieces in use of these kinds, each with the names of what it brings."""
    which = select(KitItem).where(col(KitItem.kind).in_(kinds), col(KitItem.retired_at).is_(None))
    items = sorted(
        session.execute(which).scalars(), key=lambda i: (not i.code.isdigit(), _first_number(i.code), i.code)
    )
    ids = [item.id for item in items]
    history = select(KitEvent).where(col(KitEvent.item_id).in_(ids)).order_by(col(KitEvent.at), col(KitEvent.id))
    measured: dict[int, dict[str, Any]] = {}
    for event in session.execute(history).scalars():
        if event.kind in ("calibration", "tare", "inspection"):
            measured[event.item_id] = json.loads(event.data)
    found: dict[str, list[Offered]] = {kind: [] for kind in kinds}
    for item in items:
        seen = measured.get(item.id or 0, {})
        names = [name for name, value in seen.items() if value is not None and name != PAPER]
        if item.kind == "tin":
            names = ["mass_tin_g"] if seen else []
        if item.kind == "balance":
            names = ["balance_readability_g"] if item.readability_g is not None else []
        found[item.kind].append(Offered(item.code, item.title, tuple(names)))
    return found


_BROUGHT_ENDINGS = ("_in_date", "_due_on", "_register_g", "_register_ratio")
_BROUGHT = frozenset(
    ("balance_readability_g", "device_inspected_on", "device_passed", "device_drop_mm", "tested_on")
) | frozenset(name for calibration in CALIBRATIONS.values() for name in calibration.model_fields)


def is_brought(field: str) -> bool:
    """Whether naming a piece of kit brings a reading of that name; it can still be typed where there is none.

    >>> is_brought("ring_diameter_mm"), is_brought("proving_ring_due_on"), is_brought("mass_wet_g")
    (True, True, False)
    """
    return field in _BROUGHT or field.endswith(_BROUGHT_ENDINGS)


def brought_by(session: Session, field: str, code: str, today: date) -> dict[str, Any]:
    """Readings that naming a piece of kit brings with it, by field name; empty for an unknown number."""
    kind = kind_named(field)
    item = find(session, kind, code) if kind else None
    if item is None:
        return {}
    now = state(session, item, today)
    if kind == "tin":
        return (
            {}
            if now.tare_g is None or now.word == "retired"
            else {"mass_tin_g": now.tare_g, "mass_tin_register_g": now.tare_g}
        )
    if kind == "balance":
        held = now.word in ("in date", "lapses soon")
        state_then: dict[str, Any] = {"balance_in_date": "yes" if held else "no"}
        if item.readability_g is not None:
            state_then["balance_readability_g"] = item.readability_g
        if now.due_on:
            state_then["balance_due_on"] = now.due_on.isoformat()
        return state_then
    if kind in CALIBRATIONS:
        if not now.last:
            return {}
        measured = next((data for event, data in reversed(now.events) if event.kind == "calibration"), None)
        if measured is None:
            return {}
        calibrated = {name: value for name, value in measured.items() if value is not None and name != PAPER}
        # The calibration that held then, and whether it had lapsed, stand on the run's own tape.
        state_of = {f"{kind}_in_date": "yes" if now.word in ("in date", "lapses soon") else "no"}
        if now.due_on:
            state_of[f"{kind}_due_on"] = now.due_on.isoformat()
        return calibrated | state_of
    brought: dict[str, Any] = {"tested_on": today.isoformat()}
    looks = [(event, data) for event, data in now.events if event.kind == "inspection"]
    if looks and now.due_on:
        event, data = looks[-1]
        brought |= {
            "device_inspected_on": event.at.date().isoformat(),
            "device_due_on": now.due_on.isoformat(),
            "device_passed": "yes" if all(v["level"] == "fine" for v in data.get("verdicts", ())) else "no",
            "device_drop_mm": data["drop_mm"],
        }
    return brought
