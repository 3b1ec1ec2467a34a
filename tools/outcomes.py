"""Outcomes put by before a change of shape, and compared after it: `outcomes.py store FILE`, `... compare FILE`.

Of every example, every virtual soil (twenty seeds of each school) and every run of the frozen demo: values with their
rounding, error and qualification, and verdicts with their level. A change of shape changes none of them; whatever
differs is meant, and told.
"""

import gzip
import json
import sys
import tempfile
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.serving import AT  # noqa: E402

from vadum.demo.job import build  # noqa: E402
from vadum.soil.contract.outcome import Outcome  # noqa: E402
from vadum.soil.register import METHODS  # noqa: E402
from vadum.tape import runs  # noqa: E402
from vadum.tape.database import Database  # noqa: E402

SEEDS = 20
DIGITS = 9  # of a value: more would tell a change of the order in which a sum is taken


def told(outcome: Outcome) -> dict[str, Any]:
    """What of an outcome a person sees."""
    values = {
        v.key: [
            None if v.value is None else float(f"{v.value:.{DIGITS}g}"),
            v.reported,
            None if v.uncertainty is None else float(f"{v.uncertainty:.6g}"),
            "".join(word[0] for word in ("provisional", "estimate", "withheld") if getattr(v, word)),
        ]
        for v in outcome.values
    }
    verdicts = sorted([v.rule, v.level, v.found, v.limit, list(v.at)] for v in outcome.verdicts)
    return {"values": values, "verdicts": verdicts, "missing": sorted(m.name for m in outcome.missing)}


def examples() -> Iterator[tuple[str, Outcome]]:
    """Every case of the project's own example files that goes through a whole method."""
    for file in sorted((ROOT / "tests/examples").glob("*.toml")):
        its = METHODS.get(file.stem)
        if its is None:
            continue
        for number, case in enumerate(tomllib.loads(file.read_text("utf-8")).get("case", [])):
            if "record" not in case:
                continue
            school = its.school(case.get("school"))
            school = type(school).model_validate(school.model_dump() | case.get("settings", {}))
            record = its.Record.model_validate(case["record"])
            yield f"example {file.stem} {case.get('name', number)}", its.outcome(record, school)


def soils() -> Iterator[tuple[str, Outcome]]:
    """Every virtual soil, and every mistake it can make for the first seed."""
    for its in METHODS.values():
        for school in its.schools.values():
            for seed in range(SEEDS):
                record = its.virtual(seed, school, None).record
                yield f"soil {its.name} {school.name} {seed}", its.outcome(record, school)
            for mistake in its.mistakes:
                record = its.virtual(0, school, mistake).record
                yield f"mistake {its.name} {school.name} {mistake}", its.outcome(record, school)


def demo() -> Iterator[tuple[str, Outcome]]:
    """Every run of the frozen demo, with its advice."""
    with tempfile.TemporaryDirectory() as folder:
        database = Database(f"sqlite:///{folder}/demo.db")
        database.migrate()
        build(database, AT)
        with database.reading() as session:
            for run in runs.listed(session, *runs.STATES, size=500):
                read = runs.compute(run, runs.read_tape(session, run.id or 0))
                yield f"demo {run.code}", read.at(AT)
        database.close()


def every() -> dict[str, Any]:
    """All of them by name."""
    found: dict[str, Any] = {}
    for part in (examples, soils, demo):
        for name, outcome in part():
            found[name] = told(outcome)
            if outcome.advice is not None:
                found[name]["advice"] = outcome.advice.headline
    return found


def differences(before: dict[str, Any], after: dict[str, Any]) -> Iterator[str]:
    """What differs, a line each."""
    for name in sorted(before.keys() | after.keys()):
        if name not in before or name not in after:
            yield f"{name}: {'new' if name not in before else 'gone'}"
            continue
        for part in sorted(before[name].keys() | after[name].keys()):
            was, now = before[name].get(part), after[name].get(part)
            if was == now:
                continue
            if isinstance(was, dict) and isinstance(now, dict):
                for key in sorted(was.keys() | now.keys()):
                    if was.get(key) != now.get(key):
                        yield f"{name}: {part} {key}: {was.get(key)} became {now.get(key)}"
            elif isinstance(was, list) and isinstance(now, list):
                yield from (f"{name}: {part} no more: {one}" for one in was if one not in now)
                yield from (f"{name}: {part} new: {one}" for one in now if one not in was)
            else:
                yield f"{name}: {part}: {was} became {now}"


def main() -> None:
    verb, file = sys.argv[1], Path(sys.argv[2])
    found = json.loads(json.dumps(every()))
    if verb == "store":
        file.write_bytes(gzip.compress(json.dumps(found, ensure_ascii=False).encode(), 9, mtime=0))
        print(f"{len(found)} outcomes put by")
        return
    lines = list(differences(json.loads(gzip.decompress(file.read_bytes())), found))
    print("\n".join(lines) or f"{len(found)} outcomes, none differs")
    sys.exit(bool(lines))


if __name__ == "__main__":
    main()
