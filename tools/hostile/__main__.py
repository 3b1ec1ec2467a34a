"""Attack the running program on loopback, bounded in count and time, and print what held: `make hostile`.

`python -m tools.hostile [NAME ...]`; each part ends by itself, within ten minutes, and sends traffic only to a program
that it started.
"""

import argparse
import time

from tools.hostile import crowd, door, files, record

PARTS = {
    part.__name__: part
    for part in (
        record.kills,
        record.instrument,
        record.disk,
        door.fuzz,
        door.poisons,
        files.zips,
        files.pictures,
        files.settings,
        files.tables,
        crowd.flood,
        crowd.streams,
        crowd.slow,
        crowd.at_once,
        crowd.device,
        crowd.typing,
    )
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, epilog=f"parts: {', '.join(PARTS)}")
    parser.add_argument("names", nargs="*", choices=[[], *PARTS])
    parser.add_argument("--kills", type=int, default=100)
    parser.add_argument("--requests", type=int, default=5000)
    parser.add_argument("--poisons", type=int, default=40, help="at most so many of each school")
    parser.add_argument("--schools", action="store_true", help="poisons in every school, not in each method's first")
    parser.add_argument("--share", default="1/4", help="of the desks that are typed at, such as 2/4")
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    for name in asked.names or PARTS:
        begun = time.monotonic()
        PARTS[name](asked)
        print(f"  {name}: {time.monotonic() - begun:.0f} s", flush=True)


if __name__ == "__main__":
    main()
