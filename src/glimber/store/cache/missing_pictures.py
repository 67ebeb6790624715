"""Report icons that the set does not have and pictures that are not in the folio."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from glimber.core.audit.finding import SEVERITIES, Finding
from glimber.core.notation.nearest import did_you_mean
from glimber.store.cache.icons import icon_names
from glimber.store.cache.pictures import ENDINGS, LARGEST, icons_of
from glimber.store.folder import Opened


def missing_pictures(opened: Opened) -> Iterator[Finding]:
    """Yield a finding for every icon or picture that a card could not show, with its file and line.

    Without the icon package nothing is known of icons, and only pictures are looked at.
    """
    shown, names = icons_of(opened.folder), icon_names()
    folio = opened.folio
    users: dict[str, list[str]] = {}
    for ref, command in folio.commands.items():
        for name in (command.icon, command.picture):
            users.setdefault(name or "", []).extend(one.id for one in folio.bindings_of.get(ref, ()))
    for binding in folio.bindings.values():
        for name in (binding.icon, binding.picture):
            users.setdefault(name or "", []).append(binding.id)
    for program in folio.programs.values():
        users.setdefault(program.picture or "", []).extend(one.id for one in program.bindings)
    for name, bindings in users.items():
        is_file = name.lower().endswith(ENDINGS)
        if not name or (shown(name) is not None if is_file else not names or name in names):
            continue
        if is_file:
            text = f"{name} cannot be shown; expected a PNG, JPEG or SVG file of at most {LARGEST // 1_000_000} MB in the folio."
        else:
            text = f"{name} is not an icon of the set{did_you_mean(name, names)}"
        where = _line_of(opened.texts, name)
        yield Finding("picture-missing", SEVERITIES["picture-missing"], where, tuple(dict.fromkeys(bindings)), text)


def _line_of(texts: Mapping[str, bytes], name: str) -> str:
    """Return the file and line where a name first stands in quotes; the folio's own file where none has it so."""
    quoted = {f'"{name}"'.encode(), f"'{name}'".encode()}
    for file, text in texts.items():
        for number, line in enumerate(text.splitlines(), 1):
            if any(one in line for one in quoted) and (b"icon" in line or b"picture" in line):
                return f"{file}:{number}"
    return "folio.toml"
