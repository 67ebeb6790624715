"""The guards themselves: the floors, and each contract proven by breaking it once; no module that grows without end."""

from __future__ import annotations

import ast
import re
import shutil
import subprocess
import sys
from collections.abc import Mapping
from functools import partial
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
BREACHES = [
    ("core/model/board.py", "from glimber.store import faults", "Three floors"),
    ("store/faults.py", "from glimber.ui.paint import look", "Three floors"),
    ("readers/__init__.py", "from glimber.store import faults", "Three floors"),
    ("standin/person.py", "from glimber.demo import build", "Three floors"),
    ("core/model/board.py", "from PySide6 import QtCore", "The core knows no toolkit"),
    ("core/model/board.py", "import time", "The core knows no toolkit"),
    ("core/notation/keys.py", "from pathlib import Path", "The core knows no toolkit"),
    ("core/decide/plan.py", "import sqlalchemy", "The core knows no toolkit"),
    ("ui/arrange/desk.py", "from glimber.ui.arrange.verbs import keys", "Arrange: the room"),
    ("ui/arrange/modes/typist.py", "from glimber.ui.arrange.views import canvas", "Arrange: the room"),
    ("ui/arrange/views/canvas.py", "from glimber.ui.arrange.verbs import keys", "Arrange: the room"),
    ("ui/gather/views/sources.py", "from glimber.ui.gather.verbs import reading", "Gather: the room"),
    ("ui/gather/desk.py", "from glimber.ui.gather.views import rows", "Gather: the room"),
    ("ui/weigh/room.py", "from glimber.ui.drill import room", "The window is built on the rooms"),
    ("ui/session/room.py", "from glimber.ui.shell import window", "The window is built on the rooms"),
    ("ui/paint/draw.py", "from glimber.ui.widgets import rows", "The window is built on the rooms"),
    ("store/practice/log.py", "from PySide6.QtCore import QObject", "Only the interface knows the toolkit"),
]


def lint(folder: Path) -> str:
    """What import-linter says of a copy of the source."""
    code = "import sys; sys.path.insert(0, 'src'); from importlinter.cli import lint_imports_command as c; c(['--no-cache'])"
    result = subprocess.run([sys.executable, "-c", code], cwd=folder, capture_output=True, text=True, check=False)
    return result.stdout + result.stderr


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


def test_all_contracts_are_kept(copy: Path) -> None:
    assert "Contracts: 7 kept, 0 broken." in lint(copy)


@pytest.mark.parametrize(("module", "line", "contract"), BREACHES)
def test_each_contract_sees_its_breach(copy: Path, module: str, line: str, contract: str) -> None:
    path = copy / "src" / "glimber" / module
    path.write_text(path.read_text().replace("from __future__ import annotations\n", f"from __future__ import annotations\n{line}\n", 1)
                    if "from __future__" in path.read_text() else f"{path.read_text()}\n{line}\n")  # fmt: skip
    assert re.search(rf"{contract}.*BROKEN", lint(copy))


def circles(folder: Path) -> list[list[str]]:
    """Files that import each other in a ring; imports for types only and those inside functions count too."""
    files = {_module(path.relative_to(folder)): path for path in folder.rglob("*.py")}
    known = {name: {one for one in map(partial(_known, files), _imports(name, path)) if one} - {name} for name, path in files.items()}
    # What imports nothing that is left is in no ring; what remains in the end is.
    left = {name: set(names) for name, names in known.items()}
    while gone := {name for name, names in left.items() if not names}:
        left = {name: names - gone for name, names in left.items() if name not in gone}
    used = {name for names in left.values() for name in names}
    return [sorted(left)] if used else []


def _module(path: Path) -> str:
    """Return the dotted name of a file; a package goes by its own name, so that a ring through an ``__init__`` is seen."""
    return ".".join(path.with_suffix("").parts).removesuffix(".__init__")


def _known(files: Mapping[str, Path], name: str) -> str:
    while name and name not in files:
        name = name.rpartition(".")[0]
    return name


def _imports(name: str, path: Path) -> set[str]:
    package = name if path.name == "__init__.py" else name.rpartition(".")[0]
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {one.name for one in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = node.module or ""
            if node.level:
                base = ".".join([*package.split(".")[: len(package.split(".")) - node.level + 1], *filter(None, [base])])
            found |= {f"{base}.{one.name}" for one in node.names}
    return found


def test_no_files_import_each_other_in_a_ring(copy: Path) -> None:
    assert circles(copy / "src") == []
    path = copy / "src/glimber/ui/session/host.py"
    path.write_text(path.read_text().replace("if TYPE_CHECKING:\n", "if TYPE_CHECKING:\n    from glimber.ui.shell.window import Window\n"))
    (found,) = circles(copy / "src")
    assert {"glimber.ui.session.host", "glimber.ui.shell.window"} <= set(found)


def test_a_ring_through_a_package_is_seen(copy: Path) -> None:
    path = copy / "src/glimber/cli/__init__.py"
    path.write_text(path.read_text() + "\nfrom glimber.cli import commands\n")
    (copy / "src/glimber/cli/make.py").write_text("from glimber.cli import app\n")
    (found,) = circles(copy / "src")
    assert {"glimber.cli", "glimber.cli.commands", "glimber.cli.make"} <= set(found)


def test_strict_typing_sees_an_untyped_function(copy: Path) -> None:
    path = copy / "src" / "glimber" / "core" / "notation" / "nearest.py"
    path.write_text(path.read_text() + "\n\ndef untyped(x):\n    return x\n")
    command = [sys.executable, "-m", "mypy", "--cache-dir", str(copy / "cache"), "src/glimber/core/notation/nearest.py"]
    result = subprocess.run(command, cwd=copy, capture_output=True, text=True, check=False)
    assert "Function is missing a type annotation" in result.stdout


def test_modules_stay_readable() -> None:
    long = {str(path.relative_to(ROOT)): count for path in (ROOT / "src").rglob("*.py") if (count := path.read_text().count("\n")) > 520}
    assert not long


def test_colours_are_told_in_one_place() -> None:
    told = [
        f"{path.name}: {node.value}"
        for path in (ROOT / "src" / "glimber" / "ui").rglob("*.py")
        if path.name != "look.py"
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and re.search(r"#[0-9A-Fa-f]{6}\b", node.value)
    ]
    assert not told


def test_everything_public_in_the_core_says_what_it_is() -> None:
    bare = []
    for path in (ROOT / "src" / "glimber" / "core").rglob("*.py"):
        tree = ast.parse(path.read_text())
        if not ast.get_docstring(tree) and path.read_text().strip():
            bare.append(f"{path.name}")
        for node in tree.body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and not ast.get_docstring(node):
                bare.append(f"{path.name}: {node.name}")
    assert not bare


def test_the_documents_name_modules_that_are_there() -> None:
    named = re.compile(r"`((?:core|store|ui|readers|writers|cli|demo|standin)/[a-z_/]+)(?:\.py)?`")
    missing = [f"{page.name}: {path}" for page in (ROOT / "docs").glob("*.md") for path in named.findall(page.read_text())
               if not any((ROOT / "src/glimber" / f"{path.rstrip('/')}{end}").exists() for end in ("", ".py"))]  # fmt: skip
    assert not missing


def test_every_decision_is_in_the_index() -> None:
    folder = ROOT / "docs" / "decisions"
    index = (folder / "README.md").read_text()
    assert all(f"({page.name})" in index for page in folder.glob("20*.md"))


def test_an_installation_gets_what_was_tested() -> None:
    """Every package of the lock is held by hashes, and every dependency is bounded by the version that is locked."""
    import tomllib

    from packaging.requirements import Requirement

    lock = (ROOT / "requirements.lock").read_text().splitlines()
    assert all(re.fullmatch(r"[\w.\[\]-]+==\S+( ;[^#]*?)?( --hash=sha256:[0-9a-f]{64})+", line) for line in lock)
    locked = {re.sub(r"[-_.]+", "-", line.partition("==")[0].partition("[")[0]).lower(): line.partition("==")[2].split()[0] for line in lock}
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    needed = map(Requirement, [*project["dependencies"], *(one for extra in project["optional-dependencies"].values() for one in extra)])
    for one in needed:
        name = re.sub(r"[-_.]+", "-", one.name).lower()
        highest = [spec.version for spec in one.specifier if spec.operator in ("<=", "==")]
        assert highest == [locked[name]], one
