"""Keymaps in JSON, TOML and YAML: the text with the keys is replaced where it stands, comments and all else stay."""

from __future__ import annotations

import json
from collections.abc import Sequence

from glimber.writers.lines import Format, rewrite
from glimber.writers.wanted import Rewritten, Wanted


def write_json(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in a keymap in JSON."""
    return rewrite(Format("json", quote=_within, quotes=(_within,), blank=""), data, wanted)


def write_toml(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in a keymap in TOML; within single quotes nothing is escaped."""
    return rewrite(Format("toml", quote=_within, quotes=(_within, str), blank=""), data, wanted)


def write_yaml(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in a keymap in YAML; a plain text may have to be put in quotes."""
    return rewrite(Format("yaml", quotes=(str, json.dumps)), data, wanted)


def _within(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)[1:-1]


WRITERS = {"json": write_json, "toml": write_toml, "yaml": write_yaml}
