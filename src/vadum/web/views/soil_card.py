"""The soil card of several runs: one that it cannot tell of is left out and named."""

from collections.abc import Sequence

from vadum.soil.soil_card.bands import Bands
from vadum.soil.soil_card.card import Card, card
from vadum.soil.soil_card.evidence import Told
from vadum.tape.entries import Taped
from vadum.tape.fence import BrokenRun, fenced
from vadum.tape.runs import Read


def _told(read: Read) -> Told:
    return Told(read.run.code, read.outcome, read.school, read.folded.record)


def card_of(reads: Sequence[Read], bands: Bands | None = None) -> tuple[Card, list[BrokenRun]]:
    """The card by the laboratory's bands, and the runs that it cannot be made with."""
    told = [_told(read) for read in reads]
    try:
        return card(told, bands), []
    except Exception:  # which of them it is, is found by asking each alone, and then each with those that went before
        sound: list[Told] = []
        broken: list[BrokenRun] = []
    for read in reads:
        before = tuple(sound)

        def with_this(entries: tuple[Taped, ...], read: Read = read, before: tuple[Told, ...] = before) -> Card:
            return card([*before, _told(read.upto(entries))], bands)

        try:
            fenced(read.run, read.entries, "told on the soil card", with_this)
            sound.append(_told(read))
        except BrokenRun as error:
            broken.append(error)
    return card(sound, bands), broken
