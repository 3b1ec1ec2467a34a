"""Typical mistakes are named at their level, and a clean run is accused of nothing."""

from collections import Counter

from tools.judgement import MOST_ACCUSED, clean, mistakes

RUNS = 1000


def test_every_seeded_mistake_is_named_at_its_level():
    found = list(mistakes())
    assert len(found) >= 120
    assert not [(case.method, case.words, state) for case, state in found if state != "named"]


def test_clean_runs_are_accused_of_nothing():
    accused: Counter[tuple[str, str]] = Counter()
    wrong = 0
    for name, _, verdicts in clean(RUNS):
        wrong += bool(verdicts)
        accused.update((name, v.rule) for v in verdicts)
    assert wrong <= MOST_ACCUSED * RUNS, accused.most_common(5)
