"""Write docs/methods from the methods' own texts; `--check` only says whether they are stale."""

import re
import sys
from collections.abc import Iterator
from pathlib import Path

from vadum.soil.contract.fields import RecordPart, unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.paths import rows_model
from vadum.soil.contract.rules import name_of
from vadum.soil.contract.school import settings_of, source_of
from vadum.soil.register import METHODS
from vadum.web.views.schools import shown

ROOT = Path(__file__).resolve().parents[1]


SEEDS = range(6)


def schools_of(method: Method) -> list[str]:
    """Each school with what it sets; the laboratory's settings once, with where they come from."""
    kind = type(method.school())
    fields = dict(settings_of(kind))
    own = {name: source_of(field) for name, field in fields.items() if source_of(field)}
    out = ["", "## Schools", ""]
    for school in method.schools.shipped.values():
        out.append(f"- **{school.title}** (`{school.name}`, {school.standard}). {school.about}")
        told = [f"`{name}` {shown(getattr(school, name)) or 'none'}" for name in fields if name not in own]
        out.append(f"  Settings: {', '.join(told)}.")
    if own:
        first = method.school()
        out += ["", "## Laboratory settings", "", "| setting | starts at | source |", "|---|---|---|"]
        out += [f"| `{name}` | {shown(getattr(first, name)) or 'none'} | {source} |" for name, source in own.items()]
    return out


def work_of(method: Method) -> list[str]:
    """The steps: what is done, the hands and waits they need, the cautions."""
    out = ["", "## Steps", ""]
    first = method.school()
    for number, step in enumerate(method.steps, 1):
        waits = step.waits(first)
        needs = [f"hands {step.hands_s / 60:g} min"]
        needs += [f"waits {waits / 60:g} h"] if waits else []
        needs += [f"holds {', '.join(step.holds)}"] if step.holds else []
        needs += [] if step.alone else ["not to be left alone"]
        out.append(f"{number}. **{step.title}.** {step.does} ({'; '.join(needs)})")
        out += [f"   - Caution: {caution}" for caution in step.cautions]
    return out


def rules_of(method: Method) -> list[str]:
    """Every rule of the table."""
    out = ["", "## Rules", "", "| rule, as it holds | otherwise | source | what to do |", "|---|---|---|---|"]
    for rule in method.rules:
        level, source, do = (getattr(rule, name, "") for name in ("level", "source", "do"))
        out.append(f"| {name_of(rule)} | {level or 'as found'} | {source or 'the school'} | {do or 'as found'} |")
    return out


def formulas_of(method: Method) -> list[str]:
    """Every formula that any school's working shows."""
    found: dict[tuple[str, str], str] = {}
    for school in method.schools.shipped.values():
        for seed in SEEDS:
            for line in method.outcome(method.virtual(seed, school, None).record, school).working:
                found.setdefault((line.symbol, line.formula), f"{line.unit} | {line.source}")
    seen: dict[str, tuple[str, str]] = {}
    for (symbol, formula), rest in found.items():
        seen.setdefault(re.sub(r"_\d+", "_i", f"{symbol} {formula}"), (f"`{symbol} = {formula}`", rest))
    out = ["", "## Formulas", "", "| formula | unit | source |", "|---|---|---|"]
    return out + [f"| {formula} | {rest} |" for formula, rest in seen.values()]


def readings_of(record: type[RecordPart], prefix: str = "") -> Iterator[str]:
    """Every reading, rows within rows too."""
    for name, field in record.model_fields.items():
        rows = rows_model(record, name)
        if rows is None:
            yield f"| `{prefix}{name}` | {field.title} | {unit_of(name)} |"
        else:
            yield from readings_of(rows, f"{prefix}{name}[].")


def page(method: Method) -> str:
    """A method's page."""
    out = [
        f"# {method.title} (`{method.name}`)",
        "",
        f"Standards: {', '.join(method.standards)}. Version {method.version}.",
        "",
        f"Limits of use: {method.limits_of_use}",
        *schools_of(method),
        *work_of(method),
        *rules_of(method),
        *formulas_of(method),
        *("", "## Readings", "", "| path | what | unit |", "|---|---|---|"),
        *readings_of(method.Record),
        *("", "## Mistakes the virtual soil can make", ""),
        *(f"- `{name}`: {words}" for name, words in method.mistakes.items()),
    ]
    return "\n".join(out) + "\n"


def main() -> None:
    folder = ROOT / "docs/methods"
    folder.mkdir(parents=True, exist_ok=True)
    for method in METHODS.values():
        path = folder / f"{method.name}.md"
        if "--check" in sys.argv:
            if not path.is_file() or path.read_text("utf-8") != page(method):
                sys.exit(f"{path.name} is stale: make docs")
        else:
            path.write_text(page(method), "utf-8")


if __name__ == "__main__":
    main()
