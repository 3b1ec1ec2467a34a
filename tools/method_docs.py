"""Write docs/methods from the methods' own texts; `--check` only says whether they are stale."""

import sys
from pathlib import Path

from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.method import Method
from vadum.soil.register import METHODS

ROOT = Path(__file__).resolve().parents[1]


def page(method: Method) -> str:
    """A method's page."""
    out = [
        f"# {method.title} (`{method.name}`)",
        "",
        f"Standards: {', '.join(method.standards)}. Version {method.version}.",
    ]
    out += ["", f"Limits of use: {method.limits_of_use}", "", "## Schools", ""]
    for school in method.schools.values():
        out.append(f"- **{school.title}** (`{school.name}`, {school.standard}). {school.about}")
        base = {"name", "title", "standard", "about"}
        settings = {k: v for k, v in school.model_dump(mode="json").items() if k not in base}
        out.append(f"  Settings: {', '.join(f'`{k}` {v}' for k, v in settings.items())}.")
    out += ["", "## Steps", ""]
    for number, step in enumerate(method.steps, 1):
        out.append(f"{number}. **{step.title}.** {step.does}")
        out += [f"   - Caution: {caution}" for caution in step.cautions]
    out += ["", "## Readings", "", "| path | what | unit |", "|---|---|---|"]
    for name, field in method.Record.model_fields.items():
        rows = getattr(field.annotation, "__args__", (None,))[0] if field.default == () else None
        if rows is None:
            out.append(f"| `{name}` | {field.title} | {unit_of(name)} |")
            continue
        out += [f"| `{name}[].{n}` | {f.title} | {unit_of(n)} |" for n, f in rows.model_fields.items()]
    out += ["", "## Mistakes the virtual soil can make", ""]
    out += [f"- `{name}`: {words}" for name, words in method.mistakes.items()]
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
