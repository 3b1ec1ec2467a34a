"""Whatever is entered and struck, in whatever order: the chain holds and the fold agrees with a plain model."""

import contextlib
import json
import uuid
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import count, moment, number
from vadum.soil.methods.liquid_limit import METHOD as LIQUID
from vadum.soil.methods.water_content.record import Record
from vadum.tape.entries import GENESIS, Taped, broken_link, hash_of, resolved
from vadum.tape.fold import collision_verdicts, fold
from vadum.tape.typed_values import parse

START = datetime(2026, 5, 12, 8, 0, tzinfo=UTC)


def tape(*moves):
    """A tape of (path, value, strikes) moves, chained as the program chains it."""
    entries: list[Taped] = []
    for path, value, strikes in moves:
        last = entries[-1].hash if entries else GENESIS
        entry = Taped(
            id=str(uuid.uuid5(uuid.NAMESPACE_OID, f"{len(entries)}")),
            run_id=1,
            seq=len(entries) + 1,
            at=START + timedelta(seconds=len(entries)),
            arrived_at=START + timedelta(seconds=len(entries) + 2),
            by="AT",
            source="hand",
            path=resolved(path, entries),
            value=value,
            strikes=tuple(entries[s].id for s in strikes),
            reason="r" if strikes else "",
            previous_hash=last,
            hash="",
        )
        entries.append(entry.model_copy(update={"hash": hash_of(entry)}))
    return entries


MASS = st.integers(1, 99999).map(lambda n: f"{n / 100:.2f}")
MOVE = st.one_of(
    st.tuples(st.just("enter"), st.sampled_from(["mass_tin_g", "mass_wet_g", "oven_temperature_c"]), MASS),
    st.tuples(st.just("row"), st.just("weighings[].mass_dry_g"), MASS),
    st.tuples(st.just("strike"), st.integers(0, 30), st.just("")),
)


@given(st.lists(MOVE, max_size=25))
def test_the_fold_agrees_with_a_plain_model(moves):
    done, struck, standing = [], set(), []
    for kind, what, value in moves:
        if kind == "strike":
            open_now = [i for i, (path, v, _) in enumerate(done) if v is not None and i not in struck]
            if not open_now:
                continue
            target = open_now[what % len(open_now)]
            struck.add(target)
            done.append((standing[target], None, (target,)))
            standing.append(standing[target])
        else:
            done.append((what, value, ()))
            rows = sum(1 for p in standing if p.startswith("weighings")) - sum(
                1 for p, v, _ in done[:-1] if v is None and p.startswith("weighings")
            )
            standing.append(f"weighings[{rows}].mass_dry_g" if kind == "row" else what)
    entries = tape(*done)
    folded = fold(entries, Record)
    assert broken_link(entries) == ""
    expected: dict[str, float] = {}
    doubles = 0
    for i, (_, value, _) in enumerate(done):
        if value is None or i in struck:
            continue
        if entries[i].path in expected:
            doubles += 1
        else:
            expected[entries[i].path] = float(value)
    assert len(folded.collisions) == doubles == len(collision_verdicts(folded, str))
    for path, value in expected.items():
        if path.startswith("weighings"):
            row = int(path[len("weighings[") : path.index("]")])
            assert folded.record.weighings[row].mass_dry_g == value
        else:
            assert getattr(folded.record, path) == value
    assert set(folded.came_from) == set(expected)


@given(st.integers(0, 7), st.sampled_from(["value", "by", "at", "path", "reason", "source", "strikes", "seq", "id"]))
def test_any_change_to_any_entry_breaks_the_chain(place, field):
    entries = tape(*[("remarks", f"{n}", ()) for n in range(8)])
    changes = {"value": "x", "by": "XX", "at": START, "arrived_at": None}
    changes |= {"path": "tin", "reason": "x", "source": "y", "strikes": ("z",)}
    changed = {**changes, "seq": 99, "id": "other", "at": START - timedelta(days=1)}[field]
    entries[place] = entries[place].model_copy(update={field: changed})
    assert broken_link(entries) != ""


@given(st.permutations(range(6)))
def test_entries_in_another_order_break_the_chain(order):
    entries = tape(*[("remarks", f"{n}", ()) for n in range(6)])
    shuffled = [entries[i] for i in order]
    assert (broken_link(shuffled) == "") == (list(order) == list(range(6)))


def test_a_tape_survives_json_with_its_hashes():
    entries = tape(("weighings[]", {"mass_dry_g": "50,1"}, ()), ("remarks", "µ ≥ ½", ()))
    again = [Taped.model_validate(json.loads(e.model_dump_json())) for e in entries]
    assert [hash_of(e) for e in again] == [e.hash for e in entries]


@given(st.decimals(-9999, 9999, allow_nan=False, places=3))
def test_both_decimal_signs_give_the_same_number(value):
    text = f"{value:f}"
    assert number(text) == number(text.replace(".", ",")) == float(value)


@given(st.text(max_size=30))
def test_no_text_makes_the_door_fail_in_any_other_way(text):
    for path in ("mass_wet_g", "in_oven_at", "sealed", "tin", "weighings[0].mass_dry_g", text):
        with contextlib.suppress(FieldError):
            parse(Record, path, text)


@given(st.recursive(st.none() | st.booleans() | st.floats() | st.text(max_size=5), lambda c: st.lists(c, max_size=2)))
def test_no_value_makes_the_number_reader_fail_in_any_other_way(value):
    for read in (number, count, moment):
        with contextlib.suppress(ValueError):
            read(value)


@settings(suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(
    st.lists(
        st.fixed_dictionaries(
            {},
            optional={
                "blows": st.integers(-5, 200),
                "verification_blows": st.integers(-5, 200),
                "penetration_mm": st.floats(-5, 80) | st.just(float("nan")),
                "water_added_ml": st.floats(-10, 200) | st.just(float("nan")),
                "mass_dish_g": st.floats(-10, 900),
                "mass_tin_g": st.floats(-10, 60),
                "mass_wet_g": st.floats(-10, 90) | st.just(float("nan")),
                "mass_dry_g": st.floats(-10, 90),
                "excluded_because": st.just("torn"),
            },
        ),
        max_size=6,
    ),
    st.sampled_from(sorted(LIQUID.schools)),
    st.none() | st.floats(-10, 300),
)
def test_no_record_however_odd_makes_the_reduction_or_the_advice_fail(trials, school, soil):
    record = LIQUID.Record.model_validate({"trials": trials, "dry_soil_g": soil, "device": "cup"})
    outcome = LIQUID.judge(record, LIQUID.school(school), START)
    assert outcome.advice.headline
    assert outcome.model_dump_json()
    for value in outcome.values:
        assert value.reported


@pytest.mark.parametrize("path", ["weighings[3].mass_dry_g", "weighings[2500].mass_dry_g"])
def test_a_row_beyond_the_next_is_refused(path):
    with pytest.raises(FieldError, match="the next is number"):
        resolved(path, tape(("weighings[]", {"mass_dry_g": "1"}, ())))
