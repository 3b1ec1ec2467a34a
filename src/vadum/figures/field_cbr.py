"""The curve of a spot."""

from vadum.figures.bearing_curve import FIGURE

__all__ = ["FIGURE"]
