"""What stands in the code on a label: capitals, figures and hyphens, which every scanner types on every keyboard."""

import re

from sqlalchemy import func, select
from sqlmodel import Session, col

from vadum.tape import kit
from vadum.tape.find import Hit
from vadum.tape.tables import KitItem, Sample, Specimen


def _mark(kind: str) -> str:
    """A kind of kit as it stands on a label.

    >>> _mark("shear_box")
    'SHEARBOX'
    """
    return kind.replace("_", "").upper()


def kit_label(kind: str, code: str) -> str:
    """What the label of a piece of kit says.

    >>> kit_label("tin", "38")
    'TIN-38'
    """
    return f"{_mark(kind)}-{code.upper()}"


def sample_label(sample_id: int) -> str:
    """What the label of a sample says."""
    return f"SAMPLE-{sample_id}"


def specimen_label(sample_id: int, code: str) -> str:
    """What the label of a specimen says."""
    return f"SPECIMEN-{sample_id}-{code.upper()}"


def named_by_label(session: Session, text: str) -> list[Hit]:
    """The thing whose label says so; empty where none does."""
    sample = re.fullmatch(r"(?:SAMPLE|SPECIMEN)-(\d{1,9})(?:-(.+))?", text.strip().upper())
    if sample:
        found = session.get(Sample, int(sample.group(1)))
        code = sample.group(2)
        if found is None or (code and not _has_specimen(session, found.id or 0, code)):
            return []
        return [Hit("sample", found.id or 0, True)]
    mark, dash, code = text.strip().upper().partition("-")
    kinds = [k for k in kit.KINDS if _mark(k) == mark]
    if not dash or not kinds:
        return []
    query = select(col(KitItem.id)).where(col(KitItem.kind).in_(kinds), func.upper(col(KitItem.code)) == code)
    return [Hit("kit", int(item), True) for item in session.execute(query).scalars()]


def _has_specimen(session: Session, sample_id: int, code: str) -> bool:
    query = select(col(Specimen.id)).where(col(Specimen.sample_id) == sample_id, func.upper(col(Specimen.code)) == code)
    return session.execute(query).first() is not None
