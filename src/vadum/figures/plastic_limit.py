"""The plastic limit's picture: the plasticity chart."""

from vadum.figures.plasticity_chart import PLASTICITY

FIGURE = PLASTICITY
