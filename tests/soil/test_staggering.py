"""Start times: no overlap for any feasible set, the least total delay, and what a start at once would cost."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.calls import called_by
from tests.soil.test_following_advice import with_typed
from vadum.bench.start_plans import blocks_of, starts_of
from vadum.soil.methods.hydrometer.school import SCHOOLS
from vadum.soil.register import METHODS
from vadum.soil.shared import start_times as staggering
from vadum.soil.shared.start_times import GRID_S, Block, clashes_at, next_start_s, overlap, stagger


def hands_of(school):
    """When a cylinder of that school takes hands."""
    return blocks_of(called_by("hydrometer", school))


@st.composite
def timetables(draw):
    """One to three blocks, apart, the first beginning at or before the task's start."""
    at = -draw(st.sampled_from((0, 15, 30)))
    blocks = []
    for _ in range(draw(st.integers(1, 3))):
        length = draw(st.sampled_from((15, 20, 30, 45)))
        blocks.append(Block(at, at + length))
        at += length + draw(st.sampled_from((0, 15, 40, 60)))
    return tuple(blocks)


busy_times = st.lists(
    st.builds(lambda at, n: Block(at, at + n), st.integers(0, 400), st.sampled_from((20, 45))), max_size=3
)
few_tasks = st.lists(timetables(), min_size=1, max_size=2).flatmap(
    lambda kinds: st.lists(st.sampled_from(kinds), min_size=1, max_size=4)
)


def placed(tasks, starts):
    return [[Block(b.begin_s + s, b.end_s + s) for b in task] for task, s in zip(tasks, starts, strict=True)]


def clean(tasks, starts, busy):
    blocks = placed(tasks, starts)
    others = [(i, b) for i, task in enumerate(blocks) for b in task] + [(-1, b) for b in busy]
    return not any(overlap(a, b) for i, task in enumerate(blocks) for a in task for j, b in others if j != i)


def least_by_trying_all(tasks, busy, slots):
    best = None

    def go(starts, total):
        nonlocal best
        if best is not None and total >= best:
            return
        if len(starts) == len(tasks):
            best = total
            return
        for k in range(slots):
            at = k * GRID_S
            if best is not None and total + at >= best:
                return
            if clean(tasks[: len(starts) + 1], [*starts, at], busy):
                go([*starts, at], total + at)

    go([], 0)
    return best


@settings(max_examples=150)
@given(tasks=few_tasks, busy=busy_times)
def test_no_overlap_for_any_feasible_set_and_the_least_total_delay(tasks, busy):
    slots = 24
    was = staggering.HORIZON_S
    staggering.HORIZON_S = slots * GRID_S
    try:
        plan = stagger(tasks, busy)
    finally:
        staggering.HORIZON_S = was
    best = least_by_trying_all(tasks, busy, slots)
    assert plan.proved
    if best is None:
        assert plan.starts_s == ()
    else:
        assert clean(tasks, plan.starts_s, busy)
        assert plan.total_delay_s == best


@pytest.mark.parametrize("school", SCHOOLS.values(), ids=SCHOOLS)
@pytest.mark.parametrize("many", [2, 5, 8])
def test_real_timetables_never_need_the_same_hands(school, many):
    tasks = [hands_of(school)] * many
    plan = stagger(tasks, [Block(30, 200)], 60)
    assert plan.proved or many == 8, "a few are proved; of more the best found is told as that"
    assert clean(tasks, plan.starts_s, [Block(30, 200)])
    assert min(plan.starts_s) >= 60


def test_the_same_question_has_the_same_answer_and_what_is_best_found_is_near_the_least():
    tasks = [hands_of(SCHOOLS["teaching"])] * 8
    first, again = stagger(tasks), stagger(tasks)
    assert first == again
    # Found by a search of all starts, once: 25,395 s is the least.
    assert first.total_delay_s <= 1.01 * 25_395


def test_timetables_of_several_tests_share_one_pair_of_hands():
    """Hydrometers, bottles with their gate, rings: each placed so that none meets another."""
    kinds = [
        *(hands_of(SCHOOLS[n]) for n in ("teaching", "pipette")),
        starts_of(called_in("lime_demand"))[0][1],
        starts_of(called_in("double_ring"))[0][1],
    ]
    tasks = [k for k in kinds for _ in range(2)]
    busy = [Block(120, 240), Block(200, 300), Block(1800, 1900)]  # some of it already asks for two hands at once
    plan = stagger(tasks, busy, 60)
    assert clean(tasks, plan.starts_s, busy)


def test_bottles_begin_together_and_their_gate_is_one_piece_of_work():
    (one, blocks), *others = starts_of(called_in("lime_demand"))
    assert others == []
    assert one.begin_field == "water_in_at"
    assert [round(b.begin_s / 60) for b in blocks] == [0, 10, 20, 30, 40, 50, 60]
    assert blocks[-1].end_s - blocks[-1].begin_s > 8 * 60


def test_what_waits_takes_hands_only_at_its_start():
    school = METHODS["falling_head"].school()
    record = METHODS["falling_head"].virtual(3, school, None).record
    calls = METHODS["falling_head"].called(METHODS["falling_head"].facts(record, school), school)
    assert [len(blocks) for _, blocks in starts_of(calls)] == [1, 1, 1]


def called_in(name):
    its = METHODS[name]
    record = its.Record()
    for path, value in its.begins_with(its.school()):
        data = with_typed(record.model_dump(exclude_none=True), path, value)
        record = its.Record.model_validate(data)
    return its.called(its.facts(record, its.school()), its.school())


def test_a_cylinder_takes_its_hands_before_and_after_each_reading():
    blocks = hands_of(SCHOOLS["teaching"])
    assert blocks[0] == Block(-60, 10, "start")
    assert blocks[1] == Block(90, 165, "2 min")
    left_in = hands_of(SCHOOLS["d7928"])
    assert left_in[0] == Block(-60, 165, "start"), "with the hydrometer left in, hands stay with it"


def test_two_timetables_share_one_pair_of_hands():
    tasks = [
        hands_of(SCHOOLS["teaching"]),
        hands_of(SCHOOLS["d422"]),
        hands_of(SCHOOLS["teaching"]),
    ]
    assert clean(tasks, stagger(tasks).starts_s, [])


def test_the_next_clean_start_and_what_one_at_once_would_clash_with():
    mine = hands_of(SCHOOLS["teaching"])
    other = [Block(b.begin_s - 300, b.end_s - 300, b.label) for b in mine]
    at = next_start_s(mine, other, 60)
    assert at is not None
    assert clashes_at(at, mine, other) == []
    earlier = [s for s in range(60, at, GRID_S) if not clashes_at(s, mine, other)]
    assert earlier == [], "it is the first"
    hit = clashes_at(60, mine, other)
    assert hit
    assert hit[0].other.label.endswith("min")


def test_no_room_is_said_and_not_forced():
    assert next_start_s([Block(0, 60)], [Block(0, staggering.HORIZON_S + 60)]) is None
    assert stagger([[Block(0, 60)]], [Block(0, staggering.HORIZON_S + 60)]).starts_s == ()
    assert stagger([]).starts_s == ()


def test_the_rack_plans_from_a_whole_step_of_its_grid():
    from vadum.bench.start_plans import base_of

    now = datetime(2026, 5, 12, 10, 21, 18, tzinfo=UTC)
    assert base_of(now) == now + timedelta(seconds=12)
    assert base_of(now.replace(second=30)) == now.replace(second=30)
