"""A laboratory's mark drawn on paper once, when it is set: one that cannot be drawn would stop every sheet later."""

import subprocess
import sys
import tempfile
from pathlib import Path

from vadum.soil.contract.errors import FieldError
from vadum.tape.identity import SoundMark, sound_mark

WAIT_S = 60.0
MOST_MEMORY = 2_000_000_000
PAGE = (
    '#set page(width: 50mm, height: 20mm, margin: 2mm)\n#image("{name}", height: 12mm, width: 40mm, fit: "contain")\n'
)
# In a process of its own, with nothing of this program in it.
DRAW = f"""
import sys
try:
    import resource
    resource.setrlimit(resource.RLIMIT_AS, ({MOST_MEMORY}, {MOST_MEMORY}))
except ImportError:  # a system without such limits
    pass
import typst
typst.compile(sys.argv[1] + "/page.typ", root=sys.argv[1], ignore_system_fonts=True)
"""


def drawable(content: bytes) -> SoundMark:
    """The mark without what it may not hold, drawn once by a process of its own: a drawing that never ends, or takes
    all memory, is ended there.

    Raises: FieldError.
    """
    mark = sound_mark(content)
    with tempfile.TemporaryDirectory() as scratch:
        name = f"mark.{mark.suffix}"
        (Path(scratch) / name).write_bytes(mark.content)
        (Path(scratch) / "page.typ").write_text(PAGE.format(name=name), "utf-8")
        try:
            done = subprocess.run([sys.executable, "-c", DRAW, scratch], capture_output=True, timeout=WAIT_S)
        except subprocess.TimeoutExpired:
            raise FieldError("file", f"takes longer than {WAIT_S:g} s to draw: make it simpler") from None
    if done.returncode:
        raise FieldError("file", "cannot be drawn on paper: save it as a plain SVG or as a PNG")
    return mark
