"""Working that recomputes: evaluates a line's formula again, and writes it with its numbers."""

import ast
import math
import operator
import re
from collections.abc import Callable
from typing import Any

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Line

_OPERATIONS: dict[type, Callable[..., float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
    ast.USub: operator.neg,
}
_FUNCTIONS: dict[str, Callable[[float], float]] = {
    "log10": math.log10,
    "ln": math.log,
    "exp": math.exp,
    "sqrt": math.sqrt,
    "abs": abs,
    "sin": math.sin,
    "cos": math.cos,
    "tan": math.tan,
    "asin": math.asin,
    "atan": math.atan,
}
_CONSTANTS = {"pi": math.pi}


def recomputed(line: Line) -> float:
    """The line's formula evaluated on its inputs; raises ReductionError on anything but arithmetic."""

    def value(node: Any) -> float:
        match node:
            case ast.Expression(body=body):
                return value(body)
            case ast.Constant(value=int() | float() as constant):
                return float(constant)
            case ast.Name(id=name) if name in line.inputs:
                return line.inputs[name]
            case ast.Name(id=name) if name in _CONSTANTS:
                return _CONSTANTS[name]
            case ast.UnaryOp(op=op, operand=operand) if type(op) in _OPERATIONS:
                return _OPERATIONS[type(op)](value(operand))
            case ast.BinOp(left=left, op=op, right=right) if type(op) in _OPERATIONS:
                return _OPERATIONS[type(op)](value(left), value(right))
            case ast.Call(func=ast.Name(id=name), args=[argument], keywords=[]) if name in _FUNCTIONS:
                return _FUNCTIONS[name](value(argument))
        raise ReductionError(line.gives, f"{ast.unparse(node)!r} in the working", "arithmetic on the named inputs")

    return value(ast.parse(line.formula, mode="eval"))


GREEK = {
    "sigma": "σ",
    "eps": "ε",
    "rho": "ρ",
    "theta": "θ",
    "gamma": "γ",
    "eta": "η",
    "phi": "φ",
    "tau": "τ",
    "psi": "ψ",
}
_GREEK = re.compile(r"(?<![A-Za-z])(" + "|".join(GREEK) + r")(?![a-z])")


def greek(text: str) -> str:
    """Greek letters by their names as the letters.

    >>> greek("rho_dmax"), greek("theta"), greek("earth")
    ('ρ_dmax', 'θ', 'earth')
    """
    return _GREEK.sub(lambda match: GREEK[match.group()], text)


def pretty(formula: str) -> str:
    """A formula with the field's signs for multiplication, minus and powers.

    >>> pretty("100 * (M_1 - M_2) / (M_2 - M_c)")
    '100 × (M_1 − M_2) / (M_2 − M_c)'
    """
    return greek(formula).replace("**", "^").replace("*", "×").replace(" - ", " − ").replace("(-", "(−")


def with_numbers(line: Line) -> str:
    """The formula with each input's number in its place."""

    def number(match: re.Match[str]) -> str:
        name = match.group()
        if name not in line.inputs:
            return name
        text = plain(line.inputs[name], 6)
        return f"({text})" if line.inputs[name] < 0 else text

    return pretty(re.sub(r"[A-Za-z_]\w*", number, line.formula))
