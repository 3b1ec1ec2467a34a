"""Fetch the shipped scripts, styles and fonts from npm into the package (run by `make assets`).

Needs npm, fonttools and brotli; neither the application nor its tests need any of them.
The versions come from tools/assets/package.json; VERSIONS.txt and the licences are written beside the files.
"""

import json
import shutil
import subprocess
import tempfile
from pathlib import Path

from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parents[1]
VENDOR = ROOT / "src/vadum/web/static/vendor"
PAPER_FONTS = ROOT / "src/vadum/paper/fonts"

FILES = {
    "bootstrap/dist/css/bootstrap.min.css": "bootstrap.min.css",
    "@alpinejs/csp/dist/cdn.min.js": "alpine-csp.min.js",
    "vega/build/vega.min.js": "vega.min.js",
    "vega-lite/build/vega-lite.min.js": "vega-lite.min.js",
    "vega-embed/build/vega-embed.min.js": "vega-embed.min.js",
}
FONTS = {
    "@ibm/plex-sans/fonts/complete/woff2/IBMPlexSans-": ("Regular", "Medium", "SemiBold"),
    "@ibm/plex-sans-condensed/fonts/complete/woff2/IBMPlexSansCondensed-": ("Regular", "SemiBold"),
}
LICENCES = {
    "bootstrap": "MIT",
    "@alpinejs/csp": "MIT",
    "vega": "BSD-3-Clause",
    "vega-lite": "BSD-3-Clause",
    "vega-embed": "BSD-3-Clause",
    "@ibm/plex-sans": "OFL-1.1",
    "@ibm/plex-sans-condensed": "OFL-1.1",
}


def without_map_comment(text: str) -> str:
    """The script or style without its pointer to a source map, which is not shipped."""
    return "\n".join(line for line in text.splitlines() if "sourceMappingURL" not in line) + "\n"


def one_family(font: TTFont) -> None:
    """Name the family plainly: the typesetter looks at the old short names, which split a family by weight."""
    names = font["name"]
    family = names.getDebugName(16) or names.getDebugName(1)
    for record in names.names:
        if record.nameID == 1:
            record.string = family


def main() -> None:
    VENDOR.mkdir(parents=True, exist_ok=True)
    PAPER_FONTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        shutil.copy(ROOT / "tools/assets/package.json", scratch)
        subprocess.run(["npm", "install", "--no-audit", "--no-fund", "--ignore-scripts"], cwd=scratch, check=True)
        modules = Path(scratch) / "node_modules"
        for source, name in FILES.items():
            (VENDOR / name).write_text(without_map_comment((modules / source).read_text("utf-8")), "utf-8")
        for stem, weights in FONTS.items():
            for weight in weights:
                source = modules / f"{stem}{weight}.woff2"
                shutil.copy(source, VENDOR / source.name)
                font = TTFont(source)
                font.flavor = None
            one_family(font)
            font.save(PAPER_FONTS / f"{source.stem}.ttf")
        lines = []
        for package, licence in LICENCES.items():
            version = json.loads((modules / package / "package.json").read_text("utf-8"))["version"]
            lines.append(f"{package} {version} {licence}")
            for found in sorted((modules / package).glob("LICENSE*")):
                shutil.copy(found, VENDOR / f"LICENSE.{package.replace('/', '-').lstrip('@')}.txt")
        (VENDOR / "VERSIONS.txt").write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
