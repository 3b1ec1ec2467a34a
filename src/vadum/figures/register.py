"""The picture of each method, by the method's name."""

from importlib import import_module

from vadum.figures.theme import Figure


def figure(method: str) -> Figure:
    """The figure of that method: the module of the same name in this room."""
    found: Figure = import_module(f"vadum.figures.{method}").FIGURE
    return found
