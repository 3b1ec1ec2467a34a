"""A seal: where the ledger stood, as a small text to be kept where nobody who holds the database can change it."""

from typing import NamedTuple

from vadum.soil.contract.errors import FieldError
from vadum.tape.codes import whole_number

HEAD = "vadum seal 1"


class Seal(NamedTuple):
    """The ledger's line number and hash, and when it was made."""

    seq: int
    hash: str
    at: str

    def text(self) -> str:
        """As it is kept.

        >>> read_seal(Seal(7, "ab" * 32, "2026-05-12T10:21:00+00:00").text()).seq
        7
        """
        return f"{HEAD}\nline {self.seq}\nhash {self.hash}\nmade {self.at}\n"


def read_seal(text: str) -> Seal:
    """A seal from its text; raises FieldError on anything else."""
    lines = [line.strip() for line in text.strip().splitlines()]
    found = dict(line.split(" ", 1) for line in lines[1:] if " " in line)
    line = whole_number(found.get("line", ""))
    if not lines or lines[0] != HEAD or line is None or len(found.get("hash", "")) != 64:
        raise FieldError("--seal", "is no seal of this program")
    return Seal(line, found["hash"], found.get("made", ""))
