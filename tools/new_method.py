"""Lay out a new method's rooms: `make method NAME=direct_shear`; `make method NAME=... CHECK=1` says what is missing.

Until it is filled and registered, one test fails, in its own name, and says what comes next; the others stay green.
"""

import importlib
import re
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
SOIL = ROOT / "src/vadum/soil/methods"
TO_FILL = "TO FILL"

ROOMS = {
    "record.py": '''"""What is measured for {words}."""

from pydantic import Field

from vadum.soil.contract.fields import Number, reading
from vadum.soil.shared.water_by_tin import WithBalance


class Record(WithBalance):
    """One run of {words}; every field optional while it is open. TO FILL: readings whose names end in their unit."""

    example_mm: Number | None = reading("example", above=0)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
''',
    "school.py": '''"""What the rule books of {words} set, and what the laboratory sets for all of them."""

from vadum.soil.contract.school import School, laboratory, schools_of


class {kind}School(School):
    """TO FILL: a field for each number that differs between rule books; `laboratory(...)` for what none sets."""

    most_example_mm: float
    report_to_mm: float = laboratory(0.1)


SCHOOLS = schools_of(__file__, {kind}School)
''',
    "schools/first.toml": """order = 1
title = "TO FILL: the rule book's way in a few words"
standard = "TO FILL: its number"
about = "TO FILL: what it asks for, in one line"

most_example_mm = 10.0
""",
    "facts.py": '''"""What the readings come to, worked out once."""

from typing import NamedTuple

from vadum.soil.methods.{name}.record import Record
from vadum.soil.methods.{name}.school import {kind}School


class Facts(NamedTuple):
    """TO FILL: the record and all that values, rules, flow and calls share; what stands or falls together is one part,
    None as a whole."""

    record: Record


def facts(record: Record, school: {kind}School) -> Facts:
    """The facts of a record under a school."""
    return Facts(record)
''',
    "rules.py": '''"""The rules that judge {words}."""

from vadum.soil.contract.rules import Judge, Rule, at_most
from vadum.soil.shared.water_by_tin import balance_in_date

RULES: tuple[Judge, ...] = (
    Rule(
        "example small enough",  # TO FILL: the good case in words, the figure against the school's limit
        lambda f, s: at_most(f.record.example_mm, s.most_example_mm, "mm"),
        at=("example_mm",),
        do="TO FILL: what to do when it does not hold.",
    ),
    balance_in_date,
)
''',
    "flow.py": '''"""The order of work for {words}."""

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.task import BALANCE, Task

FLOW: Flow = (
    Task(
        key="example",
        title="TO FILL",
        does="TO FILL: how it is done, in one line.",
        fields=("example_mm", "remarks", *BALANCE),
        needs=("example_mm",),
        gives="example",
        asks="TO FILL: what is said when it is next.",
        cautions=("TO FILL: the usual cautions, or none.",),
        hands_s=120,
    ),
)
''',
    "reduce.py": '''"""{title}: from facts to values."""

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.{name}.facts import Facts
from vadum.soil.methods.{name}.school import {kind}School


def reduce(facts: Facts, school: {kind}School) -> Outcome:
    """TO FILL: the values so far, each with its line of working, and the series of the picture."""
    results = Results(school.standard)
    return Outcome(
        method="{name}",
        school=school.name,
        values=tuple(results.values),
        working=tuple(results.working),
        series={{"example": ()}},
    )
''',
    "virtual.py": '''"""A virtual soil that answers {words}."""

import random

from vadum.soil.contract.method import Trial
from vadum.soil.methods.{name}.record import Record
from vadum.soil.methods.{name}.school import {kind}School

MISTAKES = {{"example": "TO FILL: a mistake that hands make"}}


def virtual(seed: int, school: {kind}School, mistake: str | None = None) -> Trial:
    """TO FILL: a full record of a soil whose truth is returned beside it."""
    dice = random.Random(seed)
    record = Record(example_mm=round(dice.uniform(1, 9) + (20 if mistake else 0), 1))
    return Trial(record, {{}}, {{}}, mistake)
''',
    "__init__.py": '''"""{title}."""

from vadum.soil.contract.method import Method
from vadum.soil.methods.{name}.facts import facts
from vadum.soil.methods.{name}.flow import FLOW
from vadum.soil.methods.{name}.record import Record
from vadum.soil.methods.{name}.reduce import reduce
from vadum.soil.methods.{name}.rules import RULES
from vadum.soil.methods.{name}.school import SCHOOLS
from vadum.soil.methods.{name}.virtual import MISTAKES, virtual

METHOD = Method(
    name="{name}",
    code="{code}",  # two letters that no other method has
    title="{title}",
    version="1",
    standards=("TO FILL",),
    Record=Record,
    schools=SCHOOLS,
    facts=facts,
    reduce=reduce,
    rules=RULES,
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    limits_of_use="TO FILL: what the result does not say.",
    leads=(),
)
''',
}

FIGURE = '''"""The picture of {words}."""

from typing import Any

from vadum.figures.theme import Figure


def _layers(school: Any) -> list[dict[str, Any]]:
    return []


FIGURE = Figure(title="TO FILL", layers=_layers, columns={{"example": (("x", "TO FILL"),)}}, height=200)
'''

EXAMPLE = """# TO FILL: at least one case that our own program did not compute; and a case that trips each rule.

[[trip]]
rule = "example small enough"
school = "first"
set = { example_mm = 30.0 }

[[trip]]
rule = "balance check in date"
school = "first"
set = { balance_in_date = "no" }
"""


def places(name: str) -> list[Path]:
    """The files of a method, in the order in which they are filled."""
    rooms = [SOIL / name / room for room in ROOMS]
    return [*rooms, ROOT / f"src/vadum/figures/{name}.py", ROOT / f"tests/examples/{name}.toml"]


def missing_of(name: str) -> list[str]:
    """What a method still lacks, in the order in which to fill it; empty when it is whole and registered."""
    lacks = []
    for path in places(name):
        where = path.relative_to(ROOT)
        if path.name == "first.toml":
            found = list((SOIL / name / "schools").glob("*.toml"))
            lacks += [] if found else [f"{where.parent}: no school"]
            lacks += [
                f"{school.relative_to(ROOT)}: {TO_FILL.lower()}"
                for school in found
                if TO_FILL in school.read_text("utf-8")
            ]
        elif not path.is_file():
            lacks.append(f"{where}: is not there")
        elif TO_FILL in path.read_text("utf-8"):
            lacks.append(f"{where}: {TO_FILL.lower()}")
    if not lacks:
        lacks += _incomplete(name)
    if f'"{name}"' not in (SOIL.parent / "register.py").read_text("utf-8"):
        lacks.append("src/vadum/soil/register.py: its name in NAMES, where the places shall show it")
    return lacks


def _incomplete(name: str) -> list[str]:
    its = importlib.import_module(f"vadum.soil.methods.{name}").METHOD
    school = its.school()
    wanted: tuple[tuple[str, Callable[[], Any]], ...] = (
        ("record.py: a number to read", lambda: len(its.Record.model_fields) > 6),
        ("flow.py: fields that no task asks for", lambda: _every_field_has_a_task(its)),
        ("virtual.py: a truth to find", lambda: its.virtual(1, school, None).truth),
        ("virtual.py: mistakes", lambda: its.mistakes),
        (
            "reduce.py: values of the virtual soil",
            lambda: its.outcome(its.virtual(1, school, None).record, school).values,
        ),
        ("__init__.py: the values that lead", lambda: its.leads),
    )
    return [f"src/vadum/soil/methods/{name}/{words}" for words, there in wanted if not there()]


def _values(its: Any, school: Any) -> Any:
    return its.outcome(its.virtual(1, school, None).record, school).values


def _every_field_has_a_task(its: Any) -> bool:
    from vadum.soil.contract import paths

    return {p for p, _ in paths.patterns(its.Record)} == {f for task in its.flow for f in task.fields}


def write(path: Path, text: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text, "utf-8")
    print(path.relative_to(ROOT))


def lay_out(name: str) -> None:
    """Write every room of a new method."""
    words = name.replace("_", " ")
    code = "".join(word[0] for word in name.split("_"))[:2].upper()
    fill = {
        "name": name,
        "words": words,
        "title": words.capitalize(),
        "kind": "".join(word.capitalize() for word in name.split("_")),
        "code": code if len(code) == 2 else name[:2].upper(),
    }
    for room, text in ROOMS.items():
        write(SOIL / name / room, text.format(**fill) if room.endswith(".py") else text)
    write(ROOT / f"src/vadum/figures/{name}.py", FIGURE.format(**fill))
    write(ROOT / f"tests/examples/{name}.toml", EXAMPLE)


def main() -> None:
    name = sys.argv[1] if len(sys.argv) > 1 else ""
    if not re.fullmatch(r"[a-z][a-z_]+", name):
        sys.exit("NAME is a name in plain words, such as direct_shear")
    if not (SOIL / name).exists():
        lay_out(name)
        print(
            f"\nFill them in this order; `make method NAME={name}` says what is left. A desk drawn by hand is optional:"
            f"\nsrc/vadum/web/templates/desk/_board_{name}.html. CONTRIBUTING tells it with two methods as examples."
        )
    left = missing_of(name)
    print("\n".join(["", "still missing, in order:", *left]) if left else f"{name} is whole.")


if __name__ == "__main__":
    main()
