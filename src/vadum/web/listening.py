"""Which run listens to which instrument: begun, begun again after a restart, and left."""

from sqlmodel import Session

from vadum.instruments.simulated import end_simulated
from vadum.soil.errors import VadumError
from vadum.tape import kit, listened
from vadum.tape.runs import Read
from vadum.tape.tables import Run
from vadum.web.context import Shop
from vadum.web.ear import PRACTICE, Ear


def attach(its: Shop, session: Session, run: Run, instrument: str, by: str) -> Ear:
    """Let a run listen to a registered instrument; a former one must have been left."""
    address, profile_name = kit.instrument(session, instrument)
    station = its.stations.open(instrument, address, profile_name)
    ear = its.ears[run.code] = Ear(its, run.code, station, by)
    return ear


def practise(its: Shop, code: str, address: str, by: str) -> Ear:
    """An ear for a practice run's own simulated frame: its dials are read by eye, nothing is taken from it."""
    end_simulated(address)
    station = its.stations.open(f"{PRACTICE} {code}", address, "frame")
    ear = its.ears[code] = Ear(its, code, station, by)
    return ear.open()


def leave(its: Shop, code: str) -> str | None:
    """Stop listening for a run; the instrument that was left."""
    ear = its.ears.pop(code, None)
    if ear is None:
        return None
    if ear.close() == 0:
        its.stations.close(ear.station.code)
        end_simulated(ear.station.address)
    return str(ear.station.code)


def resume(its: Shop, session: Session, read: Read) -> Ear | None:
    """The run's ear; begun again after a restart when its tape says that it listened."""
    known: Ear | None = its.ears.get(read.run.code)
    if known or not read.run.in_hand:
        return known
    told = listened.listens_to(read)
    if told is None:
        return None
    try:
        return attach(its, session, read.run, *told).open()
    except VadumError:
        return None  # the instrument is gone from the kit: the desk works by hand
