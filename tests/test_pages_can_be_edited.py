"""Templates, styles and scripts that a person can edit and review."""

import re
from pathlib import Path

import pytest

WEB = Path(__file__).resolve().parents[1] / "src" / "vadum" / "web"
MOST = 140
TEMPLATES = sorted((WEB / "templates").rglob("*.html"))
FILES = [*TEMPLATES, *sorted((WEB / "static").glob("*.css")), *sorted((WEB / "static" / "js").rglob("*.js"))]


def named(file):
    return file.relative_to(WEB).as_posix()


@pytest.mark.parametrize("file", FILES, ids=named)
def test_no_line_is_longer_than_a_person_reads(file):
    long = [f"{i}: {len(line)}" for i, line in enumerate(file.read_text("utf-8").splitlines(), 1) if len(line) > MOST]
    assert not long


@pytest.mark.parametrize("file", TEMPLATES, ids=named)
def test_no_colour_is_written_in_a_template(file):
    said = re.findall(r"""["'\s:]#[0-9a-fA-F]{3,8}["';]""", file.read_text("utf-8"))
    assert not said
