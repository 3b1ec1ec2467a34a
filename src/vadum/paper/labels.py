"""Sheets of labels as PDF: a code that a scanner reads, and the words that a person reads, on common sizes of paper."""

import io
import tempfile
from pathlib import Path
from typing import NamedTuple

import segno

from vadum.figures.fonts import FONTS
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.plain_json import as_json

MOST = 600


class Size(NamedTuple):
    """How labels lie on a sheet: the paper, how many across and down, and all lengths in mm."""

    paper: str
    across: int
    down: int
    width: float
    height: float
    left: float
    top: float
    gap_x: float = 0.0
    gap_y: float = 0.0

    @property
    def on_a_sheet(self) -> int:
        """How many a sheet holds."""
        return self.across * self.down


SIZES: dict[str, Size] = {
    "70 x 37 mm, 24 on A4": Size("a4", 3, 8, 70, 37, 0, 0.5),
    "99.1 x 38.1 mm, 14 on A4": Size("a4", 2, 7, 99.1, 38.1, 4.65, 15.15, 2.5),
    "63.5 x 33.9 mm, 24 on A4": Size("a4", 3, 8, 63.5, 33.9, 7.25, 12.9, 2.5),
    "48.5 x 25.4 mm, 40 on A4": Size("a4", 4, 10, 48.5, 25.4, 8, 21.5),
    "66.7 x 25.4 mm, 30 on Letter": Size("us-letter", 3, 10, 66.7, 25.4, 4.75, 12.7, 3.15),
    "101.6 x 50.8 mm, 10 on Letter": Size("us-letter", 2, 5, 101.6, 50.8, 4, 12.7, 4.9),
}


class Label(NamedTuple):
    """One label: what its code says, the word that is read from afar, and smaller lines."""

    says: str
    big: str
    lines: tuple[str, ...] = ()


def code_svg(says: str) -> str:
    """The code alone, as SVG without a size of its own, with its quiet border."""
    out = io.BytesIO()
    segno.make(says, error="m", micro=False).save(out, kind="svg", border=2, xmldecl=False, omitsize=True)
    return out.getvalue().decode()


def pdf(labels: list[Label], size_name: str, skip: int = 0) -> bytes:
    """The labels on as many sheets as they need; `skip` places of the first sheet are used up already.

    Raises FieldError for a size that is none, no label, or too many.
    """
    if size_name not in SIZES:
        raise FieldError("size", f"is one of {'; '.join(SIZES)}")
    size = SIZES[size_name]
    if not labels:
        raise FieldError("of", "choose what gets a label")
    if len(labels) > MOST:
        raise FieldError("of", f"is more than {MOST} labels at once")
    if not 0 <= skip < size.on_a_sheet:
        raise FieldError("skip", f"is 0 to {size.on_a_sheet - 1} places of a sheet")
    import typst

    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        (folder / "labels.typ").write_bytes((Path(__file__).parent / "labels.typ").read_bytes())
        placed = [one._asdict() | {"at": i + skip, "code": f"{i}.svg"} for i, one in enumerate(labels)]
        for i, one in enumerate(labels):
            (folder / f"{i}.svg").write_text(code_svg(one.says), "utf-8")
        (folder / "labels.json").write_text(as_json({"size": size._asdict(), "labels": placed}), "utf-8")
        made: bytes = typst.compile(
            str(folder / "labels.typ"), root=scratch, font_paths=[str(FONTS)], ignore_system_fonts=True
        )
        return made
