"""Each recipe of CONTRIBUTING.md, followed once in a copy of the source: a new thing of a kind is one file or one entry."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SMALL = ROOT / "tests" / "small"


@pytest.fixture
def source(tmp_path: Path) -> Path:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    return tmp_path / "src"


def run(source: Path, code: str) -> str:
    """Run code against the copy of the source and return what it prints."""
    environment = {**os.environ, "PYTHONPATH": f"{source}{os.pathsep}{ROOT}", "PYTHONDONTWRITEBYTECODE": "1"}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, cwd=ROOT, check=False)
    assert done.returncode == 0, done.stderr
    return done.stdout.strip()


def test_a_finding(source: Path) -> None:
    recipe = (ROOT / "CONTRIBUTING.md").read_text().partition("```python\n")[2].partition("```")[0]
    imports = "from __future__ import annotations\nfrom collections.abc import Iterator\n"
    imports += "from glimber.core.audit.finding import Finding, check, finding\nfrom glimber.core.audit.parts import LayoutPart\n"
    (source / "glimber/core/audit/lonely.py").write_text(imports + recipe)
    code = """
from glimber.core.audit.checks import audit
from msgspec.structs import replace
from tests.helpers import folio_of
folio = folio_of()
board, layout = next(iter(folio.layouts.items()))
folio = replace(folio, layouts={board: replace(layout, layers=layout.layers[:1])})
print([(one.code, one.severity) for one in audit(folio) if one.code == "lonely-layer"])
"""
    assert run(source, code) == "[('lonely-layer', 'note')]"


def test_a_reader(source: Path) -> None:
    (source / "glimber/readers/semaphore.py").write_text('''
from __future__ import annotations
import re
from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader

def read(data: bytes, options: Options) -> Found:
    found = Found(watch=options.watch)
    for number, line in enumerate(decoded(data).splitlines()[1:], start=2):
        name, _, keys = line.partition(" @@ ")
        found.add(name, keys, None, number)
    return found

READERS = (Reader("semaphore", read, endings=(".sem",), signs=((1.0, re.compile(r"\\Asemaphore")),)),)
''')
    code = """
from glimber.readers.registry import choose, kinds
chosen = choose("x.sem", b"semaphore\\nAdd sounding @@ Ctrl+Shift+S\\n")
print("semaphore" in kinds(), chosen.kind, [(row.command, row.triggers) for row in chosen.found.rows])
"""
    assert run(source, code) == "True semaphore [('Add sounding', ('Ctrl+Shift+S',))]"


def test_a_writer(source: Path) -> None:
    (source / "glimber/writers/semaphore.py").write_text('''
from __future__ import annotations
from collections.abc import Sequence
from glimber.writers.wanted import Rewritten, Wanted

def write(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    return Rewritten(data + b"!", tuple(wanted))

WRITERS = {"semaphore": write}
''')
    code = "from glimber.writers.registry import kinds, write; print('semaphore' in kinds(), write('semaphore', b'x', []).data)"
    assert run(source, code) == "True b'x!'"


def test_a_card_option(source: Path) -> None:
    path = source / "glimber/core/model/card_options.py"
    entry = '    CardOption("seconds", "Shift+S", "seconds", "Show seconds a week", ("grid",)),\n'
    path.write_text(path.read_text().replace('    CardOption("labels"', f'{entry}    CardOption("labels"', 1))
    code = """
from pathlib import Path
import shutil, tempfile
from glimber.core.model.card_options import options_for
from glimber.store.toml.reading import open_folio
folder = Path(tempfile.mkdtemp()) / "small"
shutil.copytree("tests/small", folder)
(folder / "cards").mkdir(exist_ok=True)
(folder / "cards" / "c.toml").write_text('format = "glimber-card/1"\\ntitle = "C"\\nkind = "grid"\\nshows = ["seconds", "labels"]\\n')
print(open_folio(folder).folio.cards["c"].shows, options_for("grid")[0].label)
"""
    assert run(source, code) == "('seconds', 'labels') seconds"


def test_an_action_with_a_taken_key_is_refused() -> None:
    pytest.importorskip("PySide6")
    from PySide6.QtWidgets import QApplication, QWidget

    from glimber.ui.session.actions import Action, Registry

    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application = QApplication.instance() or QApplication([])
    registry = Registry(QWidget())
    registry.add(Action("undo", "Undo", ("u",), lambda: None, "gather"))
    registry.add(Action("up", "Put the card up", ("u",), lambda: None, "cards"))
    with pytest.raises(ValueError, match="counts: u already runs undo in gather"):
        registry.add(Action("counts", "Read counts", ("u", "c"), lambda: None, "gather"))
    assert application is not None
