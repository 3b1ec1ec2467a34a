"""Every public formula of the core tells what goes in, what comes out, where it is from, and shows a number."""

import ast
from pathlib import Path

import pytest

SOIL = Path(__file__).resolve().parents[2] / "src" / "vadum" / "soil"


def formulas():
    """Public functions whose docstring writes a formula."""
    for file in sorted(SOIL.rglob("*.py")):
        for node in ast.parse(file.read_text("utf-8")).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                words = ast.get_docstring(node) or ""
                if "`" in words and " = " in words:
                    yield pytest.param(node, words, id=f"{file.relative_to(SOIL).as_posix()}:{node.name}")


@pytest.mark.parametrize(("node", "words"), list(formulas()))
def test_a_formula_is_told_whole(node, words):
    assert "Returns" in words
    assert "Source" in words
    assert "Parameters" in words or not node.args.args
    plain = all(isinstance(a.annotation, ast.Name) and a.annotation.id in ("float", "int") for a in node.args.args)
    assert ">>>" in words or not plain, "a number from outside shows that it is the formula meant"
