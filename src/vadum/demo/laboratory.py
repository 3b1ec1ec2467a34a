"""The laboratory of the demo, which does not exist: its paper, and where its tins stand in the oven."""

import uuid

from vadum.demo.builder import Builder
from vadum.tape import identity, runs
from vadum.tape.entries import NewEntry, append
from vadum.tape.identity import NewIdentity

MARK = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 120 60"><title>Underford</title>
<ellipse cx="24" cy="38" rx="17" ry="9" fill="#a8431a"/><ellipse cx="60" cy="28" rx="14" ry="8" fill="#a8431a"/>
<ellipse cx="92" cy="19" rx="11" ry="6" fill="#a8431a"/>
<path d="M4 54 q14-10 28 0 t28 0 t28 0 t28 0" fill="none" stroke="#1b6670" stroke-width="4"/></svg>"""


def letterhead(b: Builder) -> None:
    """A laboratory that does not exist, on its paper."""
    identity.be(
        b.session,
        NewIdentity(
            name="Underford Ground Laboratory",
            address="The Old Ferry House\nUnderford in the Valley",
            contact="bench@underford.example",
            accreditation="Testing laboratory, invented for this demonstration",
        ),
    )
    identity.set_mark(b.session, "mark", identity.sound_mark(MARK.encode()))
    for name in ("water_content", "liquid_limit", "plastic_limit"):
        identity.set_accredited(b.session, name, True)


def shelves(b: Builder) -> None:
    """Where the tins of the demo stand in the oven."""
    for code, tin, shelf in (("WC-03", "38", "middle"), ("WC-04", "8", "low"), ("RD-02", "27", "middle")):
        run = runs.find(b.session, code)
        assert run is not None
        known = uuid.uuid5(uuid.NAMESPACE_OID, f"demo shelf {tin}")
        note = NewEntry(id=known, path="@shelf", value={"tin": tin, "shelf": shelf})
        append(b.session, run, note, "IM", b.ago(hours=14))
