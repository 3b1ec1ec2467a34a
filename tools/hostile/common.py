"""What every attack needs: a running program, a line of the report, and what was kept."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from tests.command import Command

OPEN_RUNS = ("LL-03", "WC-02", "WC-03", "SV-03")


def row(name: str, figure: str, held: bool) -> None:
    print(f"{name:<58} {figure:<60} {'held' if held else 'BROKEN'}", flush=True)


@contextmanager
def command() -> Iterator[Command]:
    with tempfile.TemporaryDirectory(prefix="vadum-hostile-") as folder:
        running = Command(Path(folder)).start()
        try:
            yield running
        finally:
            running.stop()


def ids_kept(running: Command) -> dict[str, int]:
    with running.database.reading() as session:
        found = session.connection().exec_driver_sql("SELECT id, count(*) FROM entry GROUP BY id")
        return {r[0]: r[1] for r in found}
