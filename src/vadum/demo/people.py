"""The demo's invented people, and the one made-up pass-phrase they share."""

from vadum.tape.hashing import hasher

PEOPLE = (
    ("ilse", "Ilse Marrow", "IM", "technician"),
    ("tomas", "Tomas Oskel", "TO", "checker"),
    ("ruth", "Ruth Valdane", "RV", "manager"),
)
PASSPHRASE = "seven wet stones"


def stored_passphrase() -> str:
    """The pass-phrase as accounts store it: hashed once for all three, as it takes its time."""
    return hasher().hash(PASSPHRASE)
