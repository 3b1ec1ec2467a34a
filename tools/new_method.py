"""Lay out a new method's rooms, red until filled: `make method NAME=direct_shear`."""

import re
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOIL = ROOT / "src/vadum/soil/methods"

ROOMS = {
    "record.py": '''"""What is measured for {words}."""

from pydantic import Field

from vadum.soil.contract.fields import RecordPart


class Record(RecordPart):
    """One run of {words}; every field optional while it is open."""

    remarks: str | None = Field(None, title="remarks", max_length=2000)
''',
    "schools.py": '''"""Accepted sets of rules for {words}."""

from vadum.soil.contract.school import School

SCHOOLS: dict[str, School] = {{}}
''',
    "checks.py": '''"""The rules that judge {words}: generators of verdicts."""

ALL = ()
''',
    "reduce.py": '''"""{title}: record and school to outcome."""

from vadum.soil.contract.school import School
from vadum.soil.methods.{name}.record import Record
from vadum.soil.contract.outcome import Outcome


def reduce(record: Record, school: School) -> Outcome:
    """The values so far."""
    raise NotImplementedError
''',
    "advise.py": '''"""What now, for {words}."""

from datetime import datetime

from vadum.soil.contract.school import School
from vadum.soil.methods.{name}.record import Record
from vadum.soil.contract.outcome import Advice, Outcome


def advise(record: Record, school: School, outcome: Outcome, now: datetime) -> Advice:
    """The one next action."""
    raise NotImplementedError
''',
    "steps.py": '''"""The order of work for {words}."""

from vadum.soil.contract.method import Step

STEPS: tuple[Step, ...] = ()
''',
    "virtual.py": '''"""A virtual soil that answers {words}."""

from vadum.soil.contract.method import School, Trial

MISTAKES: dict[str, str] = {{}}


def virtual(seed: int, school: School, mistake: str | None = None) -> Trial:
    """A full record and the truth behind it."""
    raise NotImplementedError
''',
    "__init__.py": '"""{title}."""\n',
}


def write(path: Path, text: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text, "utf-8")
    print(path.relative_to(ROOT))


def main() -> None:
    name = sys.argv[1] if len(sys.argv) > 1 else ""
    if not re.fullmatch(r"[a-z][a-z_]+", name) or (SOIL / name).exists():
        sys.exit("NAME is a new name in plain words, such as direct_shear")
    words = name.replace("_", " ")
    fill = {"name": name, "words": words, "title": words.capitalize()}
    for room, text in ROOMS.items():
        write(SOIL / name / room, text.format(**fill))
    write(ROOT / f"src/vadum/figures/{name}.py", f'"""The picture of {words}."""\n')
    desk = (
        '{% extends "desk/_page.html" %}\n{% block board %}{% include "desk/_board_'
        + name
        + '.html" %}{% endblock %}\n'
    )
    write(ROOT / f"src/vadum/web/templates/desk/{name}.html", desk)
    write(ROOT / f"src/vadum/web/templates/desk/_board_{name}.html", "")
    write(ROOT / f"tests/examples/{name}.toml", "# At least one case that our own program did not compute.\n")
    print("Now METHOD in __init__.py, a line in soil/register.py, a case per check in tests/soil/tripping.py.")


if __name__ == "__main__":
    main()
