"""The lower station of a small cableway in a valley that does not exist: people, ground, kit, and runs around now."""

import math
import uuid
from datetime import datetime, timedelta
from typing import Any

from vadum.demo.bearing import bearing
from vadum.demo.builder import Builder
from vadum.demo.cells import triaxial
from vadum.demo.index_tests import index_tests
from vadum.demo.laboratory import letterhead, shelves
from vadum.demo.people import PASSPHRASE, PEOPLE, stored_passphrase
from vadum.demo.plates import plates
from vadum.demo.shearing import shearing
from vadum.demo.strength import strength
from vadum.demo.water import water
from vadum.soil.shared.device_check import CupInspection
from vadum.tape import ground, kit, people, posting, schedule, signatures
from vadum.tape.database import Database
from vadum.tape.entries import NewEntry, read_tape
from vadum.tape.ground import NewJob, NewSample, NewSpot, Place
from vadum.tape.kit import NewItem
from vadum.tape.people import NewPerson
from vadum.tape.tables import Run

SPOTS = (
    ("TP1", "test pit", 12.0, 84.0, 2.4, "bus apron, north end"),
    ("TP2", "test pit", 58.0, 66.0, 2.6, "retaining wall"),
    ("TP4", "test pit", 96.0, 40.0, 2.2, "pylon footing, old lake clay"),
    ("BH1", "borehole", 104.0, 58.0, 6.0, "pylon footing"),
    ("M1", "test pit", 150.0, 22.0, 1.2, "meadow that takes the snow-melt"),
    ("F3", "stockpile", 26.0, 30.0, 2.0, "wet clay fill, to be treated with lime"),
    ("S2", "stockpile", 40.0, 24.0, 2.0, "sand for behind the retaining wall"),
    ("A1", "chainage", 12.0, 72.0, 0.5, "bus apron, km 0.012"),
    ("A2", "chainage", 31.0, 72.0, 0.5, "bus apron, km 0.031"),
    ("A3", "chainage", 48.0, 72.0, 0.5, "bus apron, km 0.048"),
)
SAMPLES = (
    ("TP1", "B1", "bag", 0.4, 0.6, "sandy gravel of the old road"),
    ("TP2", "B3", "bag", 0.7, 0.9, "brown silty clay, roots"),
    ("TP2", "B4", "bag", 1.1, 1.3, "lake clay, grey, banded"),
    ("TP4", "B2", "bag", 0.6, 0.8, "lake clay, brown-grey"),
    ("TP4", "T1", "tube", 1.6, 2.0, "lake clay, soft, grey"),
    ("BH1", "T2", "tube", 3.2, 3.6, "lake clay, firm, dark bands"),
    ("M1", "R1", "ring", 0.2, 0.3, "humous loam"),
    ("F3", "B1", "bag", 0.5, 0.8, "wet clay fill"),
    ("S2", "B1", "bag", 0.3, 0.6, "silty sand for the wall"),
    ("S2", "B2", "bag", 0.3, 0.6, "washed sand for the wall"),
    ("A1", "B1", "bag", 0.0, 0.3, "frost blanket, sandy gravel"),
    ("A2", "B1", "bag", 0.0, 0.3, "frost blanket, sandy gravel"),
    ("A3", "B1", "bag", 0.0, 0.3, "frost blanket, sandy gravel"),
)


def _people(b: Builder, stored: str) -> None:
    for login, name, initials, role in PEOPLE:
        new = NewPerson(login=login, name=name, initials=initials, role=role, passphrase=PASSPHRASE)
        b.people[initials] = people.add(b.session, new, stored)


def _ground(b: Builder) -> None:
    job = ground.add_job(
        b.session,
        NewJob(
            code="KS-26",
            title="Kestrel Saddle, lower station",
            note="Cableway: apron, wall, pylon, meadow, fill.",
            client="Kestrel Saddle Cableway Association",
            contract="KSC 114",
            engineer="Ansel Brook, resident engineer",
        ),
        b.ago(days=40),
    )
    spots = {
        code: ground.add_spot(
            b.session,
            job,
            NewSpot(code=code, kind=kind, easting_m=e, northing_m=n, depth_m=depth, note=note),
        )
        for code, kind, e, n, depth, note in SPOTS
    }
    for spot, code, kind, top, bottom, words in SAMPLES:
        sample = ground.add_sample(
            b.session,
            spots[spot],
            NewSample(
                code=code,
                kind=kind,
                depth_top_m=top,
                depth_bottom_m=bottom,
                description=words,
                sampled_at=b.ago(days=5),
                received_on=b.ago(days=4).date(),
                condition="sealed, at its own water content" if kind in ("tube", "ring") else "bag tied, no free water",
                container={"tube": "steel tube", "ring": "brass ring"}.get(kind, "two plastic bags"),
                mass_g={"tube": 2900.0, "ring": 212.0}.get(kind, 18_500.0),
                quality="1" if kind in ("tube", "ring") else "3",
            ),
        )
        b.places[f"{spot} {code}"] = Place(sample, spots[spot], job)
    for where, method, days in (
        ("TP2 B3", "liquid_limit", 2),
        ("TP4 T1", "liquid_limit", 3),
        ("M1 R1", "plastic_limit", 5),
    ):
        schedule.ask(b.session, b.places[where].sample, method, (b.now + timedelta(days=days)).date())


def _kit(b: Builder) -> None:
    for number in range(1, 41):
        item = kit.add_item(b.session, NewItem(kind="tin", code=str(number), title="aluminium, 60 mL"))
        tare = 18.5 + (number * 37 % 61) / 10
        for months in (14, 9, 4):
            worn = 0.006 * (14 - months)
            at = b.ago(days=30 * months + number % 9)
            kit.add_tare(b.session, item, round(tare - worn + b.dice.gauss(0, 0.006), 2), "TO", at)
    good = CupInspection(
        drop_mm=10.0,
        contact_spot_mm=8,
        cup_thickness_percent=86,
        groove_felt="no",
        feet_count=4,
        tool_tip_mm=2.0,
        tool_depth_mm=10.0,
        tape_removed="yes",
    )
    for code, days, changes in (
        ("cup 1", 20, {}),
        ("cup 1", 112, {"drop_mm": 10.1}),
        ("cup 2", 131, {"contact_spot_mm": 11}),
    ):
        item = kit.find(b.session, "cup", code) or kit.add_item(
            b.session, NewItem(kind="cup", code=code, title="hand crank, hard rubber base", interval_days=90)
        )
        kit.add_inspection(b.session, item, good.model_copy(update=changes), "TO", b.ago(days=days))
    for code, title, step, days in (("B1", "600 g, by the window", 0.01, 70), ("B2", "6 kg, floor bench", 0.1, 351)):
        item = kit.add_item(
            b.session, NewItem(kind="balance", code=code, title=title, interval_days=365, readability_g=step)
        )
        kit.add_event(b.session, item, "calibration", {"mass_g": 200.0}, "TO", b.ago(days=days))


def _limit(b: Builder, run: Run, at: datetime, limit: float, trials: list[tuple[int, str | None]], soil: float) -> None:
    """A morning at the dish: soil, water, and trials at these drops, each with its tin or without."""
    dry = soil / 1.026
    water = soil - dry
    b.steps(run, ("device", "soil"), at)
    b.read(
        run,
        at,
        [("device", "cup 1"), ("balance", "B1"), ("dry_soil_g", f"{soil:.1f}"), ("air_dry_water_percent", "2.6")],
    )
    reading = 120.4 + soil
    for i, (drops, tin) in enumerate(trials):
        w = limit * (25 / drops) ** 0.121
        change = dry * w / 100 - water
        moment = at + timedelta(minutes=40 + 11 * i)
        values: list[tuple[str, Any]] = []
        if i == 0:
            b.read(run, at + timedelta(minutes=5), [("trials[0].water_added_ml", f"{change:.1f}")])
            seasoned = (at + timedelta(minutes=8)).isoformat(timespec="minutes")
            b.read(run, at + timedelta(minutes=8), [("seasoned_from_at", seasoned)])
        elif change > 0:
            values.append((f"trials[{i}].water_added_ml", f"{change:.1f}"))
        water, reading = dry * w / 100, reading + change
        values += [(f"trials[{i}].mass_dish_g", f"{reading:.1f}"), (f"trials[{i}].blows", str(drops))]
        if tin:
            number, wet, _ = b.tin(tin, w, 9.4 + 0.3 * i)
            slice_g = float(wet) - b.tare(tin)
            share = slice_g / (water + dry)
            reading -= slice_g
            water, dry = water * (1 - share), dry * (1 - share)
            values += [(f"trials[{i}].tin", number), (f"trials[{i}].mass_wet_g", wet)]
        b.read(run, moment, values)


def _dried(b: Builder, run: Run, limit: float, trials: list[tuple[int, str | None]], at: datetime) -> None:
    b.dice.seed(len(trials) + int(limit))
    values = []
    for i, (drops, tin) in enumerate(trials):
        if tin:
            w = limit * (25 / drops) ** 0.121 + b.dice.gauss(0, 0.12)
            tare = b.tare(tin)
            wet = next(e.value for e in read_tape(b.session, run.id or 0) if e.path == f"trials[{i}].mass_wet_g")
            values.append((f"trials[{i}].mass_dry_g", f"{tare + (float(wet) - tare) / (1 + w / 100):.2f}"))
    b.read(run, at, values)


def _oven(b: Builder, run: Run, at: datetime) -> None:
    b.steps(run, ("oven",), at)
    b.read(run, at, [("in_oven_at", at.isoformat(timespec="minutes"))])


PREPARED = [("soil_state", "as received"), ("finer_than_425um_percent", "98")]


def _liquid_limits(b: Builder) -> None:
    session = b.session
    four: list[tuple[int, str | None]] = [(33, "3"), (27, "9"), (22, "14"), (17, "21")]
    run = b.start("BH1 T2", "liquid_limit", "four_bands", b.ago(days=4, hours=2))
    _limit(b, run, b.ago(days=4, hours=2), 52.0, four, 118.0)
    _oven(b, run, b.ago(days=4))
    _dried(b, run, 52.0, four, b.ago(days=3))
    b.read(run, b.ago(days=3) + timedelta(minutes=4), PREPARED)
    signatures.sign(
        session, run, b.people["IM"], b.ago(days=3) + timedelta(minutes=5), signatures.tape_end(session, run)
    )
    signatures.check(session, run, b.people["TO"], b.ago(days=2), signatures.tape_end(session, run))

    run = b.start("TP2 B4", "liquid_limit", "four_bands", b.ago(days=1, hours=3))
    _limit(b, run, b.ago(days=1, hours=3), 46.4, four, 112.0)
    _oven(b, run, b.ago(days=1, hours=1))
    _dried(b, run, 46.4, four, b.ago(hours=2))
    b.read(run, b.ago(hours=1, minutes=5), PREPARED)
    signatures.sign(session, run, b.people["IM"], b.ago(hours=1), signatures.tape_end(session, run))

    # In mid-morning: three bands in, the last closure too wet for the band that is open.
    run = b.start("F3 B1", "liquid_limit", "four_bands", b.ago(minutes=88))
    three: list[tuple[int, str | None]] = [(28, "7"), (23, "31"), (18, "12")]
    _limit(b, run, b.ago(minutes=85), 46.3, three, 112.0)
    wrong = next(e for e in read_tape(session, run.id or 0) if e.path == "trials[1].mass_wet_g")
    digits = str(wrong.value)
    struck = NewEntry(
        id=uuid.uuid5(uuid.NAMESPACE_OID, "demo struck"),
        path="trials[1].mass_wet_g",
        value=f"{float(digits) + 0.03:.2f}",
        strikes=(uuid.UUID(wrong.id),),
        reason="digits swapped",
    )
    posting.post(session, run, struck, b.people["IM"], b.ago(minutes=12), insist=True)
    b.read(run, b.ago(minutes=11), PREPARED)

    # Seasoning is over in two minutes.
    run = b.start("TP4 B2", "liquid_limit", "four_bands", b.ago(minutes=60))
    b.steps(run, ("device", "soil"), b.ago(minutes=58))
    b.read(run, b.ago(minutes=58), [("device", "cup 1"), ("dry_soil_g", "109.5"), ("air_dry_water_percent", "2.9")])
    b.read(run, b.ago(minutes=40), [("trials[0].water_added_ml", "41.5")])
    closed = (b.now + timedelta(minutes=1, seconds=42) - timedelta(minutes=30)).isoformat()
    b.read(run, b.ago(minutes=28), [("seasoned_from_at", closed)])

    # Dry since dawn.
    run = b.start("TP2 B3", "liquid_limit", "one_point_verified", b.ago(hours=20))
    b.read(run, b.ago(hours=20), [("device", "cup 1"), ("dry_soil_g", "104.0")])
    b.read(run, b.ago(hours=19, minutes=50), [("trials[0].water_added_ml", "34")])
    b.read(run, b.ago(hours=19, minutes=45), [("seasoned_from_at", b.ago(hours=19, minutes=45).isoformat())])
    number, wet, _ = b.tin("17", 36.2, 10.1)
    rows = [("trials[0].verification_blows", "26"), ("trials[0].blows", "25"), ("trials[0].tin", number)]
    b.read(run, b.ago(hours=19), [*rows, ("trials[0].mass_wet_g", wet)])
    _oven(b, run, b.ago(hours=19, minutes=-20))


def _plastic_limits(b: Builder) -> None:
    run = b.start("TP2 B4", "plastic_limit", "astm", b.ago(days=1, hours=2))
    values: list[tuple[str, Any]] = []
    dry_values: list[tuple[str, Any]] = []
    for i, (tin, w) in enumerate((("24", 22.3), ("26", 22.8))):
        number, wet, dry = b.tin(tin, w, 6.6 + 0.4 * i)
        values += [(f"determinations[{i}].tin", number), (f"determinations[{i}].mass_wet_g", wet)]
        dry_values.append((f"determinations[{i}].mass_dry_g", dry))
    b.read(run, b.ago(days=1, hours=1.5), values)
    _oven(b, run, b.ago(days=1, hours=1))
    b.read(run, b.ago(hours=1.9), dry_values)
    b.read(run, b.ago(hours=1.6), [*PREPARED, ("rolled_by", "hand")])
    b.read(run, b.ago(hours=1.5), [("liquid_limit_percent", "46.4"), ("natural_water_content_percent", "38.1")])

    run = b.start("F3 B1", "plastic_limit", "astm", b.ago(minutes=35))
    number, wet, _ = b.tin("33", 21.6, 6.9)
    b.read(run, b.ago(minutes=20), [("determinations[0].tin", number), ("determinations[0].mass_wet_g", wet)])


def _water_contents(b: Builder) -> None:
    def tin(sample: str, school: str, code: str, w: float, dry: float, hours: float) -> tuple[Run, str]:
        run = b.start(sample, "water_content", school, b.ago(hours=hours, minutes=12))
        number, wet, dry_mass = b.tin(code, w, dry)
        rows = [("balance", "B1"), ("tin", number), ("mass_wet_g", wet), ("largest_particle_mm", "2")]
        b.read(run, b.ago(hours=hours, minutes=10), [*rows, ("report_to_percent", "0.1")])
        b.steps(run, ("dry",), b.ago(hours=hours, minutes=6))
        into = b.ago(hours=hours).isoformat(timespec="minutes")
        b.read(run, b.ago(hours=hours), [("in_oven_at", into), ("oven_temperature_c", "108")])
        return run, dry_mass

    run, dry = tin("BH1 T2", "oven_110", "5", 41.2, 64.0, 90)
    b.read(run, b.ago(hours=66), [("weighings[0].mass_dry_g", dry)])
    signatures.sign(b.session, run, b.people["IM"], b.ago(hours=65), signatures.tape_end(b.session, run))
    signatures.check(b.session, run, b.people["TO"], b.ago(hours=60), signatures.tape_end(b.session, run))
    run, dry = tin("TP2 B4", "oven_110", "6", 38.1, 70.0, 40)
    b.read(run, b.ago(hours=22), [("weighings[0].mass_dry_g", dry)])
    tin("TP4 B2", "oven_110", "38", 44.0, 66.0, 19.5)
    tin("F3 B1", "oven_110", "8", 31.5, 72.0, 3.4)
    run, dry = tin("TP4 T1", "oven_105", "11", 47.3, 61.0, 17.5)
    heavier = f"{float(dry) + 0.22:.2f}"
    b.read(run, b.ago(minutes=38), [("weighings[0].mass_dry_g", heavier)])


def build(database: Database, now: datetime, stored: str | None = None) -> dict[str, int]:
    """Fill an empty database; the ids of its people by initials. `stored` is the pass-phrase, hashed already."""
    with database.writing() as session:
        b = Builder(session, now)
        _people(b, stored or stored_passphrase())
        letterhead(b)
        _ground(b)
        _kit(b)
        _liquid_limits(b)
        _plastic_limits(b)
        _water_contents(b)
        index_tests(b)
        bearing(b)
        strength(b)
        shearing(b)
        triaxial(b)
        plates(b)
        water(b)
        shelves(b)
        return {initials: person.id or 0 for initials, person in b.people.items()}


def drops_at(w_percent: float, limit_percent: float) -> float:
    """Drops at which the demo's clays close; for tests that turn the crank themselves."""
    return 25 * math.pow(limit_percent / w_percent, 1 / 0.121)
