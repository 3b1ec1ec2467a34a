"""The curves of both ends of a mould."""

from vadum.figures.bearing_curve import FIGURE

__all__ = ["FIGURE"]
