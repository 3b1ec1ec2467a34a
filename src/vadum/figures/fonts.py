"""Where the fonts for paper lie."""

from pathlib import Path

FONTS = Path(__file__).parents[1] / "paper" / "fonts"
