"""Photographs of a run, a step or a specimen: taken in, bounded, stripped, numbered, kept; bound by the tape."""

import base64
import binascii
import hashlib
import io
import math
import uuid
from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from PIL import Image, ImageDraw, ImageFont, ImageOps
from sqlmodel import Session, col, select

from vadum.soil.contract import paths
from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS
from vadum.tape.entries import NewEntry, Taped, append
from vadum.tape.tables import Person, Photograph, Run

EVENT = "@photograph"
MOST_SIDE_PX, MOST_TAKEN_PX, QUALITY = 1600, 60_000_000, 84
MOST_BYTES = 3_000_000
MOST_OF_A_RUN = 60
STRIP_SHARE, LEAST_STRIP_PX = 0.045, 22
BAR_SHARE = 0.25  # of the width: about so long is the scale that is drawn
MOST_CAPTION = 200
PAPER, INK = (255, 253, 247), (29, 42, 44)


class Made(NamedTuple):
    """A picture as it is kept: JPEG bytes, their SHA-256, and its size in pixels."""

    jpeg: bytes
    hash: str
    width: int
    height: int


class Pictured(NamedTuple):
    """A photograph as the tape tells it: its number in the run, hash, place (empty: the run), caption, who and when."""

    number: int
    hash: str
    place: str
    caption: str
    by: str
    at: datetime


def scale_bar(width_px: int, across_mm: float) -> tuple[int, str]:
    """The bar to draw on a picture that shows so many millimetres across: its length in pixels, and its words.

    >>> scale_bar(1600, 320.0), scale_bar(1600, 47.0)
    ((250, '50 mm'), (340, '10 mm'))
    """
    wanted = BAR_SHARE * across_mm
    decade = 10.0 ** math.floor(math.log10(wanted))
    nice = max(n * decade for n in (1, 2, 5) if n * decade <= wanted)
    return round(width_px * nice / across_mm), f"{nice:g} mm"


def made_of(raw: bytes, words: str, across_mm: float | None) -> Made:
    """The picture upright, bounded, without metadata, its number and scale drawn in a strip below it.

    Raises: FieldError for what is no picture, is too large, or shows no width.
    """
    if len(raw) > MOST_BYTES:
        raise FieldError("photograph", f"is larger than {MOST_BYTES // 1_000_000} MB")
    if across_mm is not None and not (math.isfinite(across_mm) and across_mm > 0):
        raise FieldError("across_mm", "must be above 0 mm")
    try:
        with Image.open(io.BytesIO(raw), formats=("JPEG", "PNG", "WEBP")) as opened:
            if opened.width * opened.height > MOST_TAKEN_PX or min(opened.size) < 8:
                raise FieldError("photograph", "has too many pixels, or too few")
            upright = ImageOps.exif_transpose(opened)
            picture = Image.new("RGB", upright.size, PAPER)
            picture.paste(upright.convert("RGBA"), mask=upright.convert("RGBA").getchannel("A"))
    except FieldError:
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise FieldError("photograph", "is no picture that can be read: JPEG, PNG or WebP") from error
    picture.thumbnail((MOST_SIDE_PX, MOST_SIDE_PX))
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
    return Made(jpeg, hashlib.sha256(jpeg).hexdigest(), whole.width, whole.height)


def decoded(text: str) -> bytes:
    """The bytes of a picture sent as base64, with or without the head of a data URL; raises FieldError."""
    try:
        return base64.b64decode(text.partition(",")[2] if text.startswith("data:") else text, validate=True)
    except (binascii.Error, ValueError) as error:
        raise FieldError("photograph", "is not whole") from error


def add(
    session: Session,
    run: Run,
    tape: list[Taped],
    known: uuid.UUID,
    raw: bytes,
    by: Person,
    at: datetime,
    *,
    place: str = "",
    caption: str = "",
    across_mm: float | None = None,
) -> str:
    """Keep a photograph of a run, of a step (by its key) or of a row such as a specimen; its hash.

    Sent again under one id it is kept once. Raises FieldError, TapeError.
    """
    stands = next((e for e in tape if e.id == str(known)), None)
    if stands is not None:
        return str(stands.value["hash"])
    _refuse_place(run, place)
    if len(caption) > MOST_CAPTION:
        raise FieldError("caption", f"is longer than {MOST_CAPTION} characters")
    before = taken(tape, with_left_out=True)
    if len(before) >= MOST_OF_A_RUN:
        raise FieldError("photograph", f"{run.code} holds {MOST_OF_A_RUN} already")
    number = len(before) + 1
    made = made_of(raw, f"{run.code} · {number} · {at:%d %b %Y %H:%M}", across_mm)
    session.add(
        Photograph(
            run_id=run.id or 0,
            hash=made.hash,
            width=made.width,
            height=made.height,
            data=base64.b64encode(made.jpeg).decode("ascii"),
        )
    )
    value = {"hash": made.hash, "number": number, "place": place, "caption": caption}
    append(session, run, NewEntry(id=known, path=EVENT, value=value), by.initials, at, tape)
    return made.hash


def leave_out(session: Session, run: Run, tape: list[Taped], hash_: str, reason: str, by: Person, at: datetime) -> None:
    """Take a photograph off the desk and the sheet, with a reason; it stays on the tape. Raises FieldError."""
    if not reason.strip():
        raise FieldError("reason", "why is it left out?")
    if hash_ not in {p.hash for p in taken(tape)}:
        raise FieldError("photograph", "there is no such photograph")
    append(
        session, run, NewEntry(path=EVENT, value={"hash": hash_, "out": "yes"}, reason=reason), by.initials, at, tape
    )


def taken(tape: Iterable[Taped], *, with_left_out: bool = False) -> list[Pictured]:
    """The photographs that a tape tells of, in their order."""
    found: dict[str, Pictured] = {}
    for entry in tape:
        if entry.path != EVENT:
            continue
        value = entry.value
        if value.get("out"):
            if not with_left_out:
                found.pop(value["hash"], None)
            continue
        found[value["hash"]] = Pictured(
            int(value["number"]), value["hash"], value["place"], value["caption"], entry.by, entry.at
        )
    return list(found.values())


def jpeg_of(session: Session, run_id: int, hash_: str) -> bytes | None:
    """The kept picture; None where there is none."""
    query = select(Photograph).where(col(Photograph.run_id) == run_id, col(Photograph.hash) == hash_)
    found = session.execute(query).scalar_one_or_none()
    return None if found is None else base64.b64decode(found.data)


def size_of(jpeg: bytes) -> tuple[int, int]:
    """Width and height of a kept picture, px; raises FieldError for what is none."""
    try:
        with Image.open(io.BytesIO(jpeg), formats=("JPEG",)) as opened:
            return opened.size
    except OSError:
        raise FieldError("photograph", "is no JPEG") from None


def faults(session: Session, run: Run, tape: Iterable[Taped]) -> list[str]:
    """Pictures that the tape tells of and that are gone, or are others than it says."""
    found = []
    for one in taken(tape, with_left_out=True):
        jpeg = jpeg_of(session, run.id or 0, one.hash)
        if jpeg is None:
            found.append(f"{run.code}: photograph {one.number} is gone")
        elif hashlib.sha256(jpeg).hexdigest() != one.hash:
            found.append(f"{run.code}: photograph {one.number} is not the one that was taken")
    return found


def place_words(run: Run, place: str) -> str:
    """What a photograph is of, in words: the run, a step by its title, a row as the method calls it."""
    its = METHODS[run.method]
    step = next((s for s in its.steps if s.key == place), None)
    if step is not None:
        return step.title
    return its.row_words(place) if place else "the run"


def _refuse_place(run: Run, place: str) -> None:
    its = METHODS[run.method]
    if not place or any(s.key == place for s in its.steps):
        return
    parsed = paths.parse(place)
    if not parsed.is_row or paths.rows_model(its.Record, parsed.rows[-1][0]) is None:
        raise FieldError("place", "is no step and no row of this test")
