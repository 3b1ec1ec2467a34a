"""A line of working set as mathematics: its formula as a tree, written for typst and as MathML for the page."""

import ast
import html
from typing import Any

from vadum.soil.contract.working import GREEK

SHOWN_GREEK = {**GREEK, "pi": "π"}
NAMED = {
    "log10": ("log", "10"),
    **{name: (name, "") for name in ("ln", "exp", "sin", "cos", "tan")},
    **{name: (f"arc{name[1:]}", "") for name in ("asin", "atan")},
}
# How tightly a sign binds; what binds looser than its place asks is put in brackets.
SUM, PRODUCT, POWER, ATOM = 1, 2, 3, 4
BINDS = {ast.Add: SUM, ast.Sub: SUM, ast.Mult: PRODUCT, ast.Div: ATOM, ast.Pow: POWER}


def as_typst(formula: str) -> str:
    """The formula in typst's mathematics.

    >>> as_typst("100 * (M_1 - M_2) / (M_2 - M_c)")
    'frac(100 dot.op (M_1 - M_2), M_2 - M_upright("c"))'
    """
    return _typst(ast.parse(formula, mode="eval").body)[0]


def as_mathml(formula: str) -> str:
    """The formula as presentation MathML, without its outer element.

    >>> as_mathml("a / b")
    '<mfrac><mi>a</mi><mi>b</mi></mfrac>'
    """
    return _mathml(ast.parse(formula, mode="eval").body)[0]


def name_in_typst(name: str) -> str:
    """A quantity's symbol in typst: `rho_d` as rho with its subscript."""
    head, _, below = name.partition("_")
    letter = f'"{SHOWN_GREEK[head]}"' if head in SHOWN_GREEK else head if len(head) == 1 else f'upright("{head}")'
    if not below:
        return letter
    words = below.replace("_", " ")
    return f"{letter}_{words}" if words.isdigit() else f'{letter}_upright("{words}")'


def name_in_mathml(name: str) -> str:
    """A quantity's symbol as MathML."""
    head, _, below = name.partition("_")
    letter = f"<mi>{html.escape(SHOWN_GREEK.get(head, head))}</mi>"
    return f"<msub>{letter}<mtext>{html.escape(below.replace('_', ' '))}</mtext></msub>" if below else letter


def _number(value: Any) -> str:
    return f"{value:g}" if abs(value) < 1e6 else str(value)


def _typst(node: Any) -> tuple[str, int]:
    """A part of the formula and how tightly it binds."""
    match node:
        case ast.Constant(value=value):
            return _number(value), ATOM
        case ast.Name(id=name):
            return name_in_typst(name), ATOM
        case ast.UnaryOp(operand=operand):
            return f"-{_in_typst(operand, PRODUCT)}", SUM
        case ast.BinOp(left=left, op=ast.Div(), right=right):
            return f"frac({_typst(left)[0]}, {_typst(right)[0]})", ATOM
        case ast.BinOp(left=left, op=ast.Pow(), right=right):
            return f"{_in_typst(left, ATOM)}^({_typst(right)[0]})", POWER
        case ast.BinOp(left=left, op=op, right=right):
            binds = BINDS[type(op)]
            sign = {ast.Add: "+", ast.Sub: "-", ast.Mult: "dot.op"}[type(op)]
            return f"{_in_typst(left, binds)} {sign} {_in_typst(right, binds + isinstance(op, ast.Sub))}", binds
        case ast.Call(func=ast.Name(id="sqrt"), args=[inner]):
            return f"sqrt({_typst(inner)[0]})", ATOM
        case ast.Call(func=ast.Name(id="abs"), args=[inner]):
            return f"abs({_typst(inner)[0]})", ATOM
        case ast.Call(func=ast.Name(id=name), args=[inner]):
            word, below = NAMED[name]
            return f'op("{word}"){f"_{below}" if below else ""}({_typst(inner)[0]})', ATOM
    raise ValueError(f"{ast.unparse(node)!r} is no arithmetic")


def _in_typst(node: Any, least: int) -> str:
    text, binds = _typst(node)
    return text if binds >= least else f"({text})"


def _mathml(node: Any) -> tuple[str, int]:
    """A part of the formula and how tightly it binds."""
    match node:
        case ast.Constant(value=value):
            return f"<mn>{_number(value)}</mn>", ATOM
        case ast.Name(id=name):
            return name_in_mathml(name), ATOM
        case ast.UnaryOp(operand=operand):
            return f"<mo>−</mo>{_in_mathml(operand, PRODUCT)}", SUM
        case ast.BinOp(left=left, op=ast.Div(), right=right):
            return f"<mfrac>{_row(_mathml(left)[0])}{_row(_mathml(right)[0])}</mfrac>", ATOM
        case ast.BinOp(left=left, op=ast.Pow(), right=right):
            return f"<msup>{_row(_in_mathml(left, ATOM))}{_row(_mathml(right)[0])}</msup>", POWER
        case ast.BinOp(left=left, op=op, right=right):
            binds = BINDS[type(op)]
            sign = {ast.Add: "+", ast.Sub: "−", ast.Mult: "·"}[type(op)]
            after = _in_mathml(right, binds + isinstance(op, ast.Sub))
            return f"{_in_mathml(left, binds)}<mo>{sign}</mo>{after}", binds
        case ast.Call(func=ast.Name(id="sqrt"), args=[inner]):
            return f"<msqrt>{_mathml(inner)[0]}</msqrt>", ATOM
        case ast.Call(func=ast.Name(id="abs"), args=[inner]):
            return f"<mo>|</mo>{_mathml(inner)[0]}<mo>|</mo>", ATOM
        case ast.Call(func=ast.Name(id=name), args=[inner]):
            word, below = NAMED[name]
            head = f"<msub><mi>{word}</mi><mn>{below}</mn></msub>" if below else f"<mi>{word}</mi>"
            return f"{head}<mo>(</mo>{_mathml(inner)[0]}<mo>)</mo>", ATOM
    raise ValueError(f"{ast.unparse(node)!r} is no arithmetic")


def _in_mathml(node: Any, least: int) -> str:
    text, binds = _mathml(node)
    return text if binds >= least else f"<mo>(</mo>{text}<mo>)</mo>"


def _row(text: str) -> str:
    """One element for a place that takes one: a row where there are several."""
    tags = text.count("<mo>")
    return f"<mrow>{text}</mrow>" if tags else text
