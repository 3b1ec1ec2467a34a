"""A sheet set on paper: its picture, the A4 page and the narrow slip, as PDF."""

import logging
import tempfile
from collections.abc import Mapping
from pathlib import Path

from vadum.figures.fonts import FONTS
from vadum.figures.register import figure
from vadum.figures.theme import svg
from vadum.paper.sheet import Sheet
from vadum.soil.contract.plain_json import as_json as json_text
from vadum.soil.contract.shown_units import Style
from vadum.soil.contract.working import greek
from vadum.tape.runs import Read

LOG = logging.getLogger(__name__)
NO_MARK = "The laboratory's mark cannot be drawn and is left off."
NO_PICTURE = "The photographs cannot be drawn and are left off; the record holds them."
SLIP_WIDTH = 270  # pixels of a picture on narrow paper, whose letters are then read at 72 mm


def chart_svg(read: Read, style: Style, width: int = 460) -> str:
    """The run's picture for paper, in the units of a style; empty when there is nothing to draw yet."""
    picture = figure(read.method.name)
    return svg(picture, read.school, read.outcome, width, style) if picture.worth_drawing(read.outcome) else ""


def pdf(sheet: Sheet, chart: str, pictures: Mapping[str, bytes], marks: Mapping[str, bytes] | None = None) -> bytes:
    """The sheet as PDF, A4; `pictures` are its photographs by their hash, `marks` the laboratory's by file name.

    A mark or photograph that cannot be drawn is left off, and the sheet says so: no reading is to blame for it.
    """
    marks = marks or {}
    tries: tuple[tuple[str, Mapping[str, bytes], Mapping[str, bytes]], ...] = (
        ("", pictures, marks),
        (NO_MARK, pictures, {}),
        (NO_PICTURE, {}, {}),
    )
    for left_off, its_pictures, its_marks in tries:
        try:
            return _compiled("sheet.typ", sheet, chart, its_pictures, its_marks, left_off)
        except RuntimeError:
            if not its_pictures and not its_marks:
                raise
            LOG.exception("%s: a mark or a photograph cannot be drawn", sheet.code)
    raise AssertionError("the last try has no pictures")


def slip_pdf(sheet: Sheet, chart: str) -> bytes:
    """The field slip as PDF, 80 mm wide and as long as it gets: for the spot, marked as unchecked until it is."""
    return _compiled("slip.typ", sheet, chart, {}, {})


SLIP_STATES = {"checked": "checked", "signed": "signed, unchecked"}


def _compiled(
    paper: str,
    sheet: Sheet,
    chart: str,
    pictures: Mapping[str, bytes],
    marks: Mapping[str, bytes],
    left_off: str = "",
) -> bytes:
    import typst

    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        (folder / paper).write_bytes((Path(__file__).parent / paper).read_bytes())
        data = sheet.model_dump(mode="json")
        data["slip_state"] = SLIP_STATES.get(sheet.state, "unchecked")
        for shown in data["values"]:
            shown["symbol"] = greek(shown["symbol"])
        data["photographs"] = [p for p in data["photographs"] if p["hash"] in pictures]
        for hash_, jpeg in pictures.items():
            (folder / f"{hash_}.jpg").write_bytes(jpeg)
        for name, picture in marks.items():
            (folder / name).write_bytes(picture)
        for key in ("mark", "accreditation_mark"):
            if data["letterhead"][key] not in marks:
                data["letterhead"][key] = ""
        data["drawn"] = bool(chart)
        data["left_off"] = left_off
        (folder / "sheet.json").write_text(json_text(data), "utf-8")
        if chart:
            (folder / "chart.svg").write_text(chart, "utf-8")
        made: bytes = typst.compile(
            str(folder / paper), root=scratch, font_paths=[str(FONTS)], ignore_system_fonts=True
        )
        return made
