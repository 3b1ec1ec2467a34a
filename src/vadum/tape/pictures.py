"""Photographs as files: opened within bounds, turned upright, stripped of metadata, numbered and given a scale."""

import base64
import binascii
import hashlib
import io
import math
from typing import NamedTuple

from PIL import Image, ImageDraw, ImageFont, ImageOps

from vadum.soil.contract.errors import FieldError

MOST_BYTES = 3_000_000
MOST_SIDE_PX, QUALITY = 1600, 84
# A JPEG is decoded at a fraction of its size; anything else needs four bytes a pixel, twice, while it is opened.
MOST_TAKEN_PX, MOST_WHOLE_PX = 60_000_000, 30_000_000
MOST_KEPT_PX = 4_000_000  # what another laboratory's program may have kept of one
LEAST_SIDE_PX = 8
STRIP_SHARE, LEAST_STRIP_PX = 0.045, 22
BAR_SHARE = 0.25  # of the width: about so long is the scale that is drawn
PAPER, INK = (255, 253, 247), (29, 42, 44)
_UNREADABLE = (OSError, ValueError, SyntaxError, MemoryError, Image.DecompressionBombError)


class Made(NamedTuple):
    """A picture as it is kept: JPEG bytes, their SHA-256, its size in pixels, and the bytes as base64."""

    jpeg: bytes
    hash: str
    width: int
    height: int
    text: str


def decoded(text: str) -> bytes:
    """The bytes of a picture sent as base64, with or without the head of a data URL; raises FieldError."""
    try:
        return binascii.a2b_base64(text.partition(",")[2] if text.startswith("data:") else text, strict_mode=True)
    except (binascii.Error, ValueError) as error:
        raise FieldError("photograph", "is not whole") from error


def opened(raw: bytes) -> Image.Image:
    """The picture upright, on paper, no larger than it is kept. The slow part: nobody waits for a lock meanwhile.

    Raises: FieldError for what is no picture or is too large.
    """
    if len(raw) > MOST_BYTES:
        raise FieldError("photograph", f"is larger than {MOST_BYTES // 1_000_000} MB")
    try:
        with Image.open(io.BytesIO(raw), formats=("JPEG", "PNG", "WEBP")) as picture:
            most = MOST_TAKEN_PX if picture.format == "JPEG" else MOST_WHOLE_PX
            if picture.width * picture.height > most or min(picture.size) < LEAST_SIDE_PX:
                raise FieldError("photograph", "has too many pixels, or too few")
            picture.draft("RGB", (MOST_SIDE_PX, MOST_SIDE_PX))
            picture.thumbnail((MOST_SIDE_PX, MOST_SIDE_PX))
            upright = ImageOps.exif_transpose(picture).convert("RGBA")
    except FieldError:
        raise
    except _UNREADABLE as error:
        raise FieldError("photograph", "is no picture that can be read: JPEG, PNG or WebP") from error
    whole = Image.new("RGB", upright.size, PAPER)
    whole.paste(upright, mask=upright.getchannel("A"))
    return whole


def scale_bar(width_px: int, across_mm: float) -> tuple[int, str]:
    """The bar to draw on a picture that shows so many millimetres across: its length in pixels, and its words.

    >>> scale_bar(1600, 320.0), scale_bar(1600, 47.0)
    ((250, '50 mm'), (340, '10 mm'))
    """
    wanted = BAR_SHARE * across_mm
    decade = 10.0 ** math.floor(math.log10(wanted))
    nice = max(n * decade for n in (1, 2, 5) if n * decade <= wanted)
    return round(width_px * nice / across_mm), f"{nice:g} mm"


def made_of(picture: Image.Image, words: str, across_mm: float | None) -> Made:
    """An opened picture with its number and scale in a strip below it, as a JPEG without metadata.

    Raises: FieldError where it is said to show no width.
    """
    if across_mm is not None and not (math.isfinite(across_mm) and across_mm > 0):
        raise FieldError("across_mm", "must be above 0 mm")
    strip = max(LEAST_STRIP_PX, round(STRIP_SHARE * picture.width))
    whole = Image.new("RGB", (picture.width, picture.height + strip), PAPER)
    whole.paste(picture)
    draw, font = ImageDraw.Draw(whole), ImageFont.load_default(size=0.6 * strip)
    draw.text((0.4 * strip, picture.height + 0.14 * strip), words, fill=INK, font=font)
    if across_mm is not None:
        bar, said = scale_bar(picture.width, across_mm)
        right, level = picture.width - round(0.5 * strip), picture.height + round(0.72 * strip)
        draw.line((right - bar, level, right, level), fill=INK, width=max(2, strip // 12))
        for x in (right - bar, right):
            draw.line((x, level - strip // 5, x, level + strip // 8), fill=INK, width=max(2, strip // 12))
        draw.text((right - bar - 0.4 * strip, picture.height + 0.14 * strip), said, fill=INK, font=font, anchor="ra")
    out = io.BytesIO()
    whole.save(out, "JPEG", quality=QUALITY, optimize=True)  # a new file: nothing of the old one's metadata is in it
    jpeg = out.getvalue()
    text = base64.b64encode(jpeg).decode("ascii")
    return Made(jpeg, hashlib.sha256(jpeg).hexdigest(), whole.width, whole.height, text)


class Marked(NamedTuple):
    """An opened picture, and it with the mark that was drawn before the lock was held. Whoever keeps it says which mark
    it must bear: where another came first and took its number, the mark is drawn again."""

    picture: Image.Image
    across_mm: float | None
    mark: str
    drawn: Made

    def made(self, mark: str) -> Made:
        """The picture with this mark."""
        return self.drawn if mark == self.mark else made_of(self.picture, mark, self.across_mm)


def marked(raw: bytes, mark: str, across_mm: float | None) -> Marked:
    """A picture opened, and its mark drawn; raises FieldError."""
    picture = opened(raw)
    return Marked(picture, across_mm, mark, made_of(picture, mark, across_mm))


def size_of_kept(jpeg: bytes) -> tuple[int, int]:
    """Width and height of a picture that another laboratory kept, px: drawn once, so that no sheet fails on it later.

    Raises: FieldError for what is none, is broken, or is larger than pictures are kept.
    """
    try:
        with Image.open(io.BytesIO(jpeg), formats=("JPEG",)) as picture:
            if len(jpeg) > MOST_BYTES or picture.width * picture.height > MOST_KEPT_PX:
                raise FieldError("photograph", "is larger than photographs are kept")
            if picture.mode != "RGB":  # as every version has written them: other kinds do not print
                raise FieldError("photograph", "is not as photographs are kept")
            picture.load()
            return picture.size
    except FieldError:
        raise
    except _UNREADABLE:
        raise FieldError("photograph", "is no JPEG that can be drawn") from None
