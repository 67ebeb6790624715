"""Everything the audit says of a table of folios, and what each cure makes of them, as it was when somebody read it."""

from __future__ import annotations

import tomllib
from pathlib import Path

from glimber.core.audit.checks import audit
from glimber.core.audit.cures import cure
from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio
from tests.helpers import FILES, FOLIO, PROGRAM, folio_of, layout_text
from tests.recorded import assert_recorded

CASES = tomllib.loads(Path(__file__).with_name("cases.toml").read_text())["case"]
"""Parts of a small folio: ``layers`` in place of its own, lines for its ``settings`` and its ``program``, whole ``files``."""


def folio_for(case: dict[str, str]) -> Folio:
    files = {"programs/shoalwright.toml": case.get("program", PROGRAM) + case.get("commands", "")}
    if "settings" in case:
        files["folio.toml"] = FOLIO + case["settings"]
    if "layers" in case:
        files["layouts/split-42.toml"] = layout_text(*case["layers"].split("---\n"))
    return folio_of({**FILES, **files, **{name.removeprefix("file "): case[name] for name in case if name.startswith("file ")}})


def lines_of(folio: Folio) -> set[str]:
    bindings = {f"{one.trigger} {one.command or ''} {one.sends or ''} {one.enters or ''}{one.leaves or ''} {one.computers or ''}"
                for one in folio.bindings.values()}  # fmt: skip
    return bindings | {f"{layer.id} {dict(layer.unset)}" for layout in folio.layouts.values() for layer in layout.layers}


def test_what_is_found_and_what_its_cure_makes_of_it() -> None:
    lines: list[str] = []
    for case in CASES:
        folio = folio_for(case)
        lines.append(f"# {case['name']}")
        for found in audit(folio, case.get("computer")):
            lines.append(f"{found.severity} {found.code} at {found.where} of {', '.join(found.bindings)}: {found.text}")
            if found.cure is None:
                continue
            try:
                cured = lines_of(cure(folio, found, case.get("computer")))
            except EditError as error:
                lines.append(f"    ! {error}")
                continue
            before = lines_of(folio)
            lines += [f"    {found.cure.words}", *(f"    - {one}" for one in sorted(before - cured)),
                      *(f"    + {one}" for one in sorted(cured - before))]  # fmt: skip
    assert_recorded("findings", lines)
