"""Cells that a spreadsheet takes for what they are: numbers stay numbers, and text is never run as a formula."""

import re

_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")
_RUNS = ("=", "+", "-", "@", "\t", "\r", "\n")  # what a spreadsheet takes for the beginning of a formula


def spreadsheet_cell(text: str) -> str:
    """The cell with a quote before whatever would be run; a number as it is.

    >>> spreadsheet_cell("-4.2"), spreadsheet_cell("=1+1"), spreadsheet_cell("-1+cmd|'/c calc'!A0")
    ('-4.2', "'=1+1", "'-1+cmd|'/c calc'!A0")
    """
    if _NUMBER.fullmatch(text):
        return text
    return f"'{text}" if text.lstrip(" \u00a0\ufeff").startswith(_RUNS) or text.startswith(_RUNS) else text
