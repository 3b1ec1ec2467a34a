"""The house rules that a program can check: imports, locks, documents, pictures, shipped files."""

import ast
import importlib
import lzma
import re
import subprocess
import sys
from pathlib import Path
from types import ModuleType

import pytest

from vadum.web.routes.offline import SHELL

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent


def tracked() -> list[Path]:
    if not (ROOT / ".git").exists():
        pytest.skip("not a checkout")
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=True).stdout
    return [ROOT / line for line in listed.splitlines() if (ROOT / line).is_file()]


def test_imports_point_one_way_only():
    done = subprocess.run([BIN / "lint-imports", "--no-cache"], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout


def test_a_planted_import_against_the_stream_is_seen(tmp_path):
    """The rule itself is tried: soil importing the web must be red."""
    import shutil

    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("static", "fonts", "__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    with (tmp_path / "src/vadum/soil/contract/times.py").open("a") as file:
        file.write("\nimport vadum.web.app\n")
    code = "import sys; sys.path.insert(0, 'src'); from importlinter.cli import lint_imports_command as c; c()"
    done = subprocess.run(
        [sys.executable, "-c", code, "--no-cache"],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        env={"PYTHONPATH": "src"},
    )
    assert done.returncode == 1, done.stdout + done.stderr
    assert "BROKEN" in done.stdout


@pytest.mark.parametrize("name", ["runtime", "dev"])
def test_locks_are_hashed_and_hold_no_address(name):
    text = (ROOT / f"requirements/{name}.lock").read_text("utf-8")
    assert "--hash=sha256:" in text
    assert not re.search(r"https?://|file://|index-url|find-links", text)


def test_the_methods_documents_are_fresh():
    done = subprocess.run(
        [sys.executable, ROOT / "tools/method_docs.py", "--check"], capture_output=True, text=True, cwd=ROOT
    )
    assert done.returncode == 0, done.stderr


def test_every_picture_is_linked_and_there_are_fewer_than_twenty():
    readme = (ROOT / "README.md").read_text("utf-8")
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    assert 5 <= len(pictures) < 20
    assert [p.name for p in pictures if p.name not in readme] == []
    for linked in re.findall(r"\(([^)]+\.(?:png|md))\)", readme):
        assert (ROOT / linked).is_file(), linked


def test_every_shipped_file_has_a_version_and_no_page_reaches_outside():
    vendor = ROOT / "src/vadum/web/static/vendor"
    assert len((vendor / "VERSIONS.txt").read_text("utf-8").splitlines()) == 7
    for template in (ROOT / "src/vadum/web/templates").rglob("*.html"):
        text = template.read_text("utf-8")
        assert not re.search(r"(src|href)=\"https?://", text), template.name
        assert not re.search(r"\sstyle=|\son[a-z]+=\"|<script>(?!</)", text), template.name


def test_no_file_names_a_machine_or_a_registry():
    forbidden = re.compile("/wor" + "k/|/roo" + "t/|registry" + r"\.npm|pypi\." + "org|TO" + "DO|FIX" + "ME")
    for path in tracked():
        if path.suffix in {".png", ".woff2", ".ttf", ".gz"} or "vendor" in path.parts:
            continue
        content = path.read_bytes()
        text = (lzma.decompress(content) if path.suffix == ".xz" else content).decode("utf-8", errors="replace")
        assert not forbidden.search(text), path.name


def missing_names(code: str) -> list[str]:
    """What a file asks of Vadum's modules, by an import or by `module.name`, that they do not have."""
    tree, modules, missing = ast.parse(code), {}, []
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("vadum"):
            home = importlib.import_module(node.module)
            for alias in node.names:
                try:
                    got = getattr(home, alias.name, None) or importlib.import_module(f"{node.module}.{alias.name}")
                except ModuleNotFoundError:
                    missing += [] if hasattr(home, alias.name) else [f"{node.module}.{alias.name}"]
                    continue
                if isinstance(got, ModuleType):
                    modules[alias.asname or alias.name] = got
    for node in ast.walk(tree):
        if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
            module = modules.get(node.value.id)
            if module and not hasattr(module, node.attr):
                missing.append(f"{module.__name__}.{node.attr}")
    return missing


def test_what_tests_and_tools_ask_of_a_module_is_still_there():
    """A name that moved is found in seconds, not by the one slow test that still used the old one."""
    files = [p for folder in ("tests", "tools", "benchmarks") for p in sorted((ROOT / folder).rglob("*.py"))]
    assert {p.name: m for p in files if (m := missing_names(p.read_text("utf-8")))} == {}
    assert missing_names("from vadum.web.views import desk\ndesk.strip\ndesk.gone\n") == ["vadum.web.views.desk.gone"]
    assert missing_names("def f():\n    from vadum.tape import runs, lost\n") == ["vadum.tape.lost"]


def test_a_number_is_read_from_a_text_in_one_place_only():
    """`isdigit` holds for signs that `int` refuses, and for numbers of any length: `whole_number` is asked instead."""
    found = []
    for file in (ROOT / "src/vadum").rglob("*.py"):
        lines = file.read_text("utf-8").splitlines()
        for number, line in enumerate(lines, 1):
            near = " ".join(lines[number - 1 : number + 3])
            if re.search(r"\.is(digit|decimal|numeric)\(\)", line) and re.search(r"\bint\(", near):
                found.append(f"{file.relative_to(ROOT)}:{number}")
    assert found == ["src/vadum/tape/codes.py:84"]


def test_no_test_gives_a_server_only_the_five_seconds_of_a_clients_habit():
    """A page that is worked out for the first time on a busy machine takes as long as it takes."""
    calls = [
        f"{file.name}: {line.strip()}"
        for file in sorted((ROOT / "tests").rglob("*.py"))
        for line in file.read_text("utf-8").splitlines()
        if "httpx2.Client(base_url" in line and "timeout" not in line
    ]
    assert calls == []


def test_the_page_of_no_network_has_every_module_that_its_modules_ask_for():
    """One that lacks would keep all of them from running, and the page from saying what waits on the device."""
    static = ROOT / "src/vadum/web/static"
    wanted = {"js/away.js", "js/frame.js"}
    for name in (modules := [name for name in SHELL if name.startswith("js/")]):
        wanted |= {
            f"js/{one}" for one in re.findall(r'(?:from|import) "\./([a-z_]+\.js)"', (static / name).read_text())
        }
    assert wanted <= set(modules)
