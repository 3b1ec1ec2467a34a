"""Every public formula of the core tells what goes in, what comes out, where it is from, and shows a number."""

import ast
from pathlib import Path

import pytest

NUMBERS = {"float", "float | None"}
OTHERS = (
    "virtual.py",
    "called.py",
    "timetable.py",
    "travel.py",
    "numerics.py",
    "practice.py",
    "start_times.py",
    "school.py",
)  # no soil in them
SOIL = Path(__file__).resolve().parents[2] / "src" / "vadum" / "soil"


def formulas():
    """Public functions whose docstring writes a formula, and those that make a number out of numbers."""
    for file in sorted(SOIL.rglob("*.py")):
        for node in ast.parse(file.read_text("utf-8")).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                words = ast.get_docstring(node) or ""
                if ("`" in words and " = " in words) or makes_a_number(file, node):
                    yield pytest.param(node, words, id=f"{file.relative_to(SOIL).as_posix()}:{node.name}")


def makes_a_number(file, node):
    taken = [ast.unparse(a.annotation) for a in (*node.args.args, *node.args.kwonlyargs)]
    given = ast.unparse(node.returns) if node.returns else ""
    return file.name not in OTHERS and given in NUMBERS and any(t in NUMBERS for t in taken)


def public():
    for file in sorted(SOIL.rglob("*.py")):
        for node in ast.parse(file.read_text("utf-8")).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                yield pytest.param(node, id=f"{file.relative_to(SOIL).as_posix()}:{node.name}")


@pytest.mark.parametrize("node", list(public()))
def test_what_raises_says_so(node):
    own = [n for n in ast.walk(node) if isinstance(n, ast.Raise) and n.exc is not None]
    inner = {id(n) for f in ast.walk(node) if isinstance(f, ast.FunctionDef) and f is not node for n in ast.walk(f)}
    words = (ast.get_docstring(node) or "").lower()
    assert "raises" in words or not [n for n in own if id(n) not in inner]


@pytest.mark.parametrize(("node", "words"), list(formulas()))
def test_a_formula_is_told_whole(node, words):
    assert "Returns" in words
    assert "Source" in words
    assert "Parameters" in words or not node.args.args
    plain = all(isinstance(a.annotation, ast.Name) and a.annotation.id in ("float", "int") for a in node.args.args)
    assert ">>>" in words or not plain, "a number from outside shows that it is the formula meant"
