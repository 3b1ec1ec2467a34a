"""A logger's series on the tape: one entry of many rows, kept digit by digit, corrected row by row or struck whole."""

import pytest

from vadum.soil.contract.block import block_of
from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS

UC = METHODS["unconfined_compression"]
SIZES = ("diameter_top_mm", "diameter_middle_mm", "diameter_bottom_mm", "height_1_mm", "height_2_mm", "height_3_mm")


def series(rows):
    """A core's series as a logger writes it: the shortening, the force, the seconds."""
    travel = [9.0 * i / (rows - 1) for i in range(rows)]
    force = [60 * (t / 4.0) * (2 - t / 4.0) if t < 8 else 0.0 for t in travel]
    return {
        "deformation_mm": [f"{t:.4f}" for t in travel],
        "force_n": [f"{f:.3f}" for f in force],
        "elapsed_s": [f"{60 * t:.2f}" for t in travel],
    }


def core(lab):
    code = lab.start("unconfined_compression", "d2166")
    for field, value in zip(SIZES, ("38.1",) * 3 + ("76.2",) * 3, strict=True):
        lab.post(code, field, value)
    lab.post(code, "load_by", "load cell")
    lab.post(code, "rate_mm_min", "1")
    return code


def test_a_block_comes_to_what_its_rows_come_to(lab):
    columns = series(40)
    by_block, by_hand = core(lab), core(lab)
    lab.post(by_block, "readings[]", block_of(columns))
    for i in range(40):
        lab.post(by_hand, f"readings[{i}]", {name: cells[i] for name, cells in columns.items()})
    block, hand = lab.read(by_block), lab.read(by_hand)
    rows = [r.model_dump(exclude={"read_at"}) for r in block.folded.record.readings]
    assert rows == [r.model_dump(exclude={"read_at"}) for r in hand.folded.record.readings]
    assert [v.value for v in block.outcome.values] == [v.value for v in hand.outcome.values]
    assert len(block.entries) == len(hand.entries) - 39


def test_its_digits_stay_as_they_came(lab):
    code = core(lab)
    kept = lab.post(code, "readings[]", block_of(series(500)))
    assert kept.value["columns"]["force_n"][100] == series(500)["force_n"][100]
    assert kept.value["units"] == {"deformation_mm": "mm", "force_n": "N", "elapsed_s": "s"}


def test_a_row_is_left_out_and_a_block_struck(lab):
    code = core(lab)
    block = lab.post(code, "readings[]", block_of(series(200)))
    before = lab.read(code).outcome.value("strength_kpa").value
    columns = series(200)
    stress = [
        float(f) * (1 - float(t) / 76.2) for f, t in zip(columns["force_n"], columns["deformation_mm"], strict=True)
    ]
    top = stress.index(max(stress))
    lab.post(code, f"readings[{top}].excluded_because", "cable trembled")
    after = lab.read(code)
    assert after.folded.record.readings[top].excluded_because == "cable trembled"
    assert 0 < before - after.outcome.value("strength_kpa").value < 0.1
    lab.post(code, "readings[]", block_of(series(20)), strikes=[str(block.id)], reason="the wrong file")
    assert len([r for r in lab.read(code).folded.record.readings if r.force_n is not None]) == 20


@pytest.mark.parametrize(
    ("columns", "says"),
    [
        ({"force_n": ["1", "2"], "deformation_mm": ["0"]}, "one length"),
        ({"force_n": []}, "one length"),
        ({"force_n": ["1"], "no_such_n": ["1"]}, "no such"),
        ({"force_n": ["1", "far"]}, "force"),
        ({"force_n": ["1"] * 20_001}, "one length"),
    ],
)
def test_what_is_no_block_is_refused_whole(lab, columns, says):
    code = core(lab)
    with pytest.raises((FieldError, ValueError), match=says):
        lab.post(code, "readings[]", {"columns": columns, "units": {}})
    assert lab.read(code).folded.record.readings == ()


def test_a_table_longer_than_a_hand_comes_in_as_one_entry(lab):
    from vadum.tape import runs
    from vadum.tape.table_import import Asked, bring_in

    code = core(lab)
    columns = series(5000)
    lines = ["deformation mm;force N;time s"]
    lines += [";".join(cells) for cells in zip(*columns.values(), strict=True)]
    with lab.database.writing() as session:
        run = runs.find(session, code, to_write=True)
        found, wrong = bring_in(
            session, run, Asked(rows="readings", text="\n".join(lines)), lab.person("AT"), lab.clock.now()
        )
    assert wrong == ()
    assert found.fields == ("deformation_mm", "force_n", "elapsed_s")
    assert len(found.entries) == 1
    assert len(lab.read(code).folded.record.readings) == 5000


def test_a_cell_that_cannot_be_read_is_named_by_its_line(lab):
    from vadum.tape import runs
    from vadum.tape.table_import import Asked, bring_in

    code = core(lab)
    rows = [f"{i / 10};{i}" for i in range(300)]
    rows[150] = "15;fifteen"
    with lab.database.writing() as session:
        run = runs.find(session, code, to_write=True)
        text = "deformation;force\n" + "\n".join(rows)
        _, wrong = bring_in(session, run, Asked(rows="readings", text=text), lab.person("AT"), lab.clock.now())
        session.rollback()
    assert [w.line for w in wrong] == [152]
    assert "force" in wrong[0].column
