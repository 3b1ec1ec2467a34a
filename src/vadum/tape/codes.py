"""Codes of jobs, spots, samples and kit, and people's initials: what they may hold, and which look alike."""

import unicodedata
from collections.abc import Iterable
from functools import lru_cache

from vadum.soil.contract.errors import FieldError

# In an address these end it, part it or climb out of it.
FORBIDDEN = "/\\?#%"
# Letters of other alphabets that are drawn like ours, and ours that are drawn like each other on a muddy label.
_PAIRS = (
    "а a, е e, о o, р p, с c, у y, х x, і i, ј j, ѕ s, һ h, к k, м m, т t, в b, н h, з 3, г r, п n, ԁ d, ԛ q, ԝ w, "
    "α a, ο o, ρ p, ν v, ι i, κ k, τ t, υ u, χ x, η n, ω w, γ y, β b, ß b, o 0, l 1, i 1, | 1, ! 1"
)
_FIRST = dict(pair.split(" ") for pair in _PAIRS.split(", "))
# Twice through: a foreign o is an o, and an o is a nought.
_LIKE = {ord(sign): _FIRST.get(like, like) for sign, like in _FIRST.items()}


def _visible(text: str, words: str) -> str:
    for sign in text:
        if unicodedata.category(sign)[0] == "C" or unicodedata.category(sign) in ("Zl", "Zp"):
            raise ValueError(f"{words} holds a sign that nobody sees")
    return text


def plain_text(text: str) -> str:
    """A line of text as it was typed, without signs that nobody sees; raises ValueError.

    >>> plain_text("944 cm³, split")
    '944 cm³, split'
    """
    return _visible(text.strip(), "it")


def code(text: str) -> str:
    """A code as it is kept; raises ValueError on what an address cannot carry.

    >>> code(" TP 4 ")
    'TP 4'
    """
    found = " ".join(_visible(unicodedata.normalize("NFKC", text), "a code").split())
    bad = sorted({sign for sign in found if sign in FORBIDDEN})
    if bad:
        raise ValueError(f"a code holds no {' '.join(bad)}: write 2026-014, not 2026/014")
    if not found or not any(sign.isalnum() for sign in found):
        raise ValueError("a code has at least one letter or figure")
    if found.startswith("."):
        raise ValueError("a code does not begin with a point")
    return found


def initials(text: str) -> str:
    """One to four letters; raises ValueError."""
    found = _visible(unicodedata.normalize("NFKC", text).strip(), "initials")
    if not 1 <= len(found) <= 4 or not found.isalpha():
        raise ValueError("initials are one to four letters")
    return found


@lru_cache(maxsize=50_000)
def looks_like(text: str) -> str:
    """What a code looks like: two codes of one look are taken for one another.

    >>> looks_like("TP1") == looks_like("TPl"), looks_like("TP1") == looks_like("TP2")
    (True, False)
    """
    bare = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in bare if not unicodedata.combining(c) and not c.isspace()).translate(_LIKE)


MOST_DIGITS = 18  # what every database holds as a whole number


def whole_number(text: str) -> int | None:
    """The whole number that a text writes in plain digits; None where it writes none.

    `isdigit` alone also holds for signs that no number is made of, and numbers of any length.

    >>> whole_number("12"), whole_number("²"), whole_number("-1"), whole_number("9" * 30)
    (12, None, None, None)
    """
    plain = text.isascii() and text.isdigit() and len(text) <= MOST_DIGITS
    return int(text) if plain else None


def refuse_alike(new: str, others: Iterable[str], words: str) -> None:
    """Raise FieldError when the code is taken, or looks like one that is."""
    look = looks_like(new)
    for other in others:
        if other == new:
            raise FieldError("code", f"{new!r} is taken by {words}")
        if looks_like(other) == look:
            raise FieldError("code", f"{new!r} looks like {other!r}, which is taken by {words}")
