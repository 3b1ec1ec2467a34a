"""No general room knows a single method: what is said of one stands in its own folder, picture, desk and examples."""

import re
from pathlib import Path

import pytest

from vadum.soil.register import METHODS

SOURCE = Path(__file__).resolve().parents[1] / "src" / "vadum"
ROOMS = ("web", "bench", "paper", "tape", "recording", "instruments", "figures", "commands", "soil/contract")
ONE_BY_ONE = ("soil/practice.py", "soil/school_check.py", "cli.py")
KINDS = (".py", ".html", ".js", ".css", ".typ", ".toml")
# What a method may add to a general room: its drawing on the desk, its picture; the register imports it by name.
OWN = re.compile(r"(desk/(_board_)?({names})\.(html|js)|figures/({names})\.py)$".format(names="|".join(METHODS)))
# Kit and accounts speak of pieces that share a test's name, and the soil card's own words for its parts.
WORDS = {"sieve", "hydrometer", "compaction"}
NAMES = re.compile("|".join(rf"(?<![a-z_]){name}(?![a-z_])" for name in METHODS if name not in WORDS))
QUOTED = re.compile("|".join(rf"""(method|name)[^\n]{{0,20}}["']{name}["']""" for name in METHODS))


def general_files() -> list[Path]:
    """Every file of the general rooms."""
    found = [f for room in ROOMS for f in (SOURCE / room).rglob("*") if f.suffix in KINDS and "vendor" not in f.parts]
    found += [SOURCE / name for name in ONE_BY_ONE]
    return [f for f in found if not OWN.search(f.relative_to(SOURCE).as_posix())]


@pytest.mark.parametrize("file", general_files(), ids=lambda f: f.relative_to(SOURCE).as_posix())
def test_a_general_room_names_no_method(file):
    text = file.read_text("utf-8")
    said = [line.strip()[:140] for line in text.splitlines() if NAMES.search(line) or QUOTED.search(line)]
    assert not said
