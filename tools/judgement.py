"""How well the rules judge: typical mistakes named at their level, and clean runs accused wrongly.

`python tools/judgement.py [--runs N] [--mistakes] [--clean]` prints both tables; it ends with 1 where an aim is missed.
"""

import json
import random
import sys
from collections import Counter
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, NamedTuple

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.soil.tripping import TRIPPED  # noqa: E402

from vadum.soil.contract.fields import RecordPart, unit_of  # noqa: E402
from vadum.soil.contract.method import Method  # noqa: E402
from vadum.soil.contract.outcome import Verdict  # noqa: E402
from vadum.soil.register import METHODS  # noqa: E402

EXPECTED = ROOT / "tests/examples/judgement/mistakes.json"
MISTAKE_SEEDS = (2, 3, 6)
RUNS = 5000
MOST_ACCUSED = 1 / 200
# What a hand and its gauge scatter by, standard deviation in the field's unit.
SCATTER = {"g": 0.005, "mm": 0.02, "div": 0.25, "°C": 0.1, "mL": 0.2}
LATE_S = 3.0


class Case(NamedTuple):
    """A mistake: in which method and school, what was done, the rule that names it, and the level it deserves."""

    method: str
    school: str
    words: str
    rule: str
    level: str


def judged(method: Method, school: Any, record: RecordPart) -> tuple[Verdict, ...]:
    """The verdicts that are not fine."""
    return tuple(v for v in method.outcome(record, school).verdicts if v.level != "fine")


def mistakes() -> Iterator[tuple[Case, str]]:
    """Every seeded mistake with what became of it: `named`, `at another level`, or `missed`."""
    told = {(c["method"], c["words"]): c for c in json.loads(EXPECTED.read_text("utf-8"))}
    for name, cases in TRIPPED.items():
        method = METHODS[name]
        for words, (school_name, change) in cases.items():
            wanted = told.get((name, words))
            if wanted is None:
                continue
            case = Case(name, school_name, words, wanted["rule"], wanted["level"])
            school = method.school(school_name)
            found = set()
            for seed in MISTAKE_SEEDS:
                record = method.virtual(seed, school, None).record
                good = {(v.rule, v.level) for v in judged(method, school, record)}
                values = record.model_dump()
                spoilt = method.Record.model_validate({**values, **change(values)})
                levels = {v.level for v in judged(method, school, spoilt) if v.rule == case.rule}
                levels = {level for level in levels if (case.rule, level) not in good}
                found.add("named" if case.level in levels else "at another level" if levels else "missed")
            yield case, "named" if found == {"named"} else " and ".join(sorted(found - {"named"}))


def scattered(part: RecordPart, dice: random.Random) -> RecordPart:
    """The record as a hand would have read it: gauges scatter, moments are seconds late; what is from the register and
    what was decided stays."""
    changed: dict[str, Any] = {}
    for name in part.model_fields_set:
        value = getattr(part, name)
        if isinstance(value, tuple):
            changed[name] = tuple(scattered(v, dice) if isinstance(v, RecordPart) else v for v in value)
        elif isinstance(value, float) and abs(value) >= 1 and name in READ:  # nothing on a sieve is nothing
            changed[name] = round(value + dice.gauss(0, SCATTER.get(unit_of(name), 0.0)), 3)
        elif isinstance(value, datetime) and name in ("read_at", "closed_at"):
            changed[name] = value + timedelta(seconds=abs(dice.gauss(0, LATE_S)) / 2)
    return part.model_copy(update=changed)


READ = {
    *("mass_wet_g", "mass_dry_g", "mass_with_soil_g", "mass_retained_g", "penetration_mm", "second_penetration_mm"),
    *("headspace_mm", "ring_div", "gauge_mm", "temperature_c", "water_added_ml", "mass_pan_g"),
}


def clean(runs: int) -> Iterator[tuple[str, str, tuple[Verdict, ...]]]:
    """So many clean runs over all schools, scattered as hands do, with what they were accused of."""
    pairs = [(m, s) for m in METHODS.values() for s in m.schools.shipped.values()]
    for n in range(runs):
        method, school = pairs[n % len(pairs)]
        seed = 100 + n // len(pairs)
        record = scattered(method.virtual(seed, school, None).record, random.Random(n))
        yield method.name, school.name, judged(method, school, record)


def main() -> int:
    """Both tables."""
    arguments = sys.argv[1:]
    runs = int(arguments[arguments.index("--runs") + 1]) if "--runs" in arguments else RUNS
    both = "--mistakes" not in arguments and "--clean" not in arguments
    failed = False
    if both or "--mistakes" in arguments:
        found = list(mistakes())
        good = sum(state == "named" for _, state in found)
        print(f"mistakes named at their level: {good} of {len(found)}")
        by = Counter(case.method for case, _ in found)
        named = Counter(case.method for case, state in found if state == "named")
        for name, many in by.items():
            print(f"  {name:24} {named[name]:3} of {many}")
        for case, state in found:
            if state != "named":
                print(f"  ! {case.method}: {case.words}: {case.level} by {case.rule!r}: {state}")
        failed |= good < len(found)
    if both or "--clean" in arguments:
        accused: Counter[tuple[str, str, str]] = Counter()
        wrong = 0
        for name, _, verdicts in clean(runs):
            wrong += bool(verdicts)
            accused.update({(name, v.rule, v.level) for v in verdicts})
        print(f"clean runs accused: {wrong} of {runs} ({100 * wrong / runs:.2f} %)")
        for (name, rule, level), many in accused.most_common(30):
            print(f"  {many:5} {name:22} {level:5} {rule}")
        failed |= wrong > MOST_ACCUSED * runs
    return int(failed)


if __name__ == "__main__":
    sys.exit(main())
