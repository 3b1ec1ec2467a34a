"""Print lines per room, and tests to code."""

from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
KINDS = {".py", ".html", ".js", ".typ"}  # styles are not counted


def lines(folder: Path) -> int:
    return sum(
        sum(1 for line in path.read_text("utf-8").splitlines() if line.strip())
        for path in folder.rglob("*")
        if path.suffix in KINDS and "vendor" not in path.parts and "__pycache__" not in path.parts
    )


def main() -> None:
    source = ROOT / "src/vadum"
    rooms = {room.name: lines(room) for room in sorted(source.iterdir()) if room.is_dir() and room.name[0] != "_"}
    for name, count in rooms.items():
        print(f"{name:<10} {count:>6}")
    code, tests = lines(source), lines(ROOT / "tests")
    print(f"{'code':<10} {code:>6}\n{'tests':<10} {tests:>6}  {tests / code:.0%}")


if __name__ == "__main__":
    main()
