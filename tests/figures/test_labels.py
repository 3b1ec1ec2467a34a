"""Labels: each code is read again from the printed sheet, in its own place, on every size of paper."""

import io

import pytest
import typst
import zxingcpp
from PIL import Image

from vadum.figures.fonts import FONTS
from vadum.paper import labels
from vadum.paper.labels import SIZES, Label
from vadum.soil.contract.errors import FieldError


def read(size, some, skip=0):
    """What a scanner reads off the sheets, by page, with where it lies in mm."""
    seen = []
    for page, picture in enumerate(drawn(size, some, skip)):
        dots = picture.width / (210 if SIZES[size].paper == "a4" else 215.9)
        for code in zxingcpp.read_barcodes(picture, formats=zxingcpp.BarcodeFormat.QRCode):
            at = code.position.top_left
            seen.append((page, code.text, at.x / dots, at.y / dots))
    return sorted(seen)


def drawn(size, some, skip):
    original = typst.compile
    images = []

    def as_pictures(source, **more):
        found = original(source, format="png", ppi=140.0, **more)
        images.extend([found] if isinstance(found, bytes) else found)
        return original(source, **more)

    typst.compile = as_pictures
    try:
        assert labels.pdf(some, size, skip).startswith(b"%PDF")
    finally:
        typst.compile = original
    return [Image.open(io.BytesIO(png)).convert("L") for png in images]


@pytest.mark.parametrize("size", SIZES)
def test_every_code_is_read_again_in_its_own_place(size):
    z = SIZES[size]
    some = [Label(f"TIN-{i}", str(i), ("tin", "aluminium, 60 mL, with its lid")) for i in range(1, z.on_a_sheet + 2)]
    found = read(size, some, skip=1)
    assert sorted(int(text.removeprefix("TIN-")) for _, text, _, _ in found) == list(range(1, z.on_a_sheet + 2))
    for page, text, x, y in found:
        place = int(text.removeprefix("TIN-"))  # one place is used up: label 1 stands at place 1
        column, row = place % z.on_a_sheet % z.across, place % z.on_a_sheet // z.across
        assert page == place // z.on_a_sheet
        left, top = z.left + column * (z.width + z.gap_x), z.top + row * (z.height + z.gap_y)
        assert left <= x <= left + z.width
        assert top <= y <= top + z.height


def test_long_words_stay_on_their_label_and_hide_no_code():
    some = [Label(f"SPECIMEN-{i}-A", "TP4 T1 specimen A of the lake clay", ("a" * 60, "b" * 200)) for i in range(24)]
    assert len(read(next(iter(SIZES)), some)) == 24


def test_nothing_or_too_much_is_refused():
    with pytest.raises(FieldError):
        labels.pdf([], next(iter(SIZES)))
    with pytest.raises(FieldError):
        labels.pdf([Label("A", "A")] * 601, next(iter(SIZES)))
    assert FONTS.exists()
