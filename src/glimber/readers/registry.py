"""The readers there are, and the choice of one for a source."""

from __future__ import annotations

import gc
import logging
import re
from collections.abc import Callable, Mapping
from functools import cache
from importlib.metadata import entry_points
from typing import Final

from msgspec import Struct

from glimber.readers.found import MOST_CANDIDATES, Found, Options, StoppedError, TooManyError, decoded

Reader = Callable[[bytes, Options], Found]
_LOG: Final = logging.getLogger("glimber.readers")
GROUP: Final = "glimber.readers"
MOST_BYTES: Final = 64_000_000
MOST_LINES: Final = 2_000_000
_PACKED: Final = ("pack", "spreadsheet", "pdf", "man")
"""What has limits of its own for what it unpacks to."""
_HEAD: Final = 24_000
_CLOSE: Final = 0.35
"""A reader is tried as well where it is nearly as sure as the surest."""
_TRIED: Final = 5

_ENDINGS: Final = {
    ".html": "html", ".htm": "html", ".xhtml": "html", ".md": "markdown", ".markdown": "markdown", ".csv": "csv", ".tsv": "csv",
    ".ods": "spreadsheet", ".xlsx": "spreadsheet", ".xml": "xml", ".ui": "xml", ".page": "xml", ".docbook": "xml",
    ".inputrc": "line-editor", ".toml": "toml", ".glimber": "pack", ".json": "json", ".jsonc": "json", ".json5": "json",
    ".yaml": "yaml", ".yml": "yaml", ".pdf": "pdf", ".rst": "rst", ".adoc": "asciidoc", ".asciidoc": "asciidoc", ".lua": "script",
    ".el": "script", ".vim": "script", ".scm": "script", ".lisp": "script", ".conf": "config", ".rc": "config", ".cfg": "config",
    ".ini": "config", ".1": "man", ".5": "man", ".7": "man", ".8": "man", ".gz": "man", ".js": "script", ".py": "script",
    ".keymap": "config",
}  # fmt: skip
_SNIFFED: Final = (
    ("pdf", 1.0, re.compile(r"\A%PDF")),
    ("line-editor", 0.95, re.compile(r'^\s*"\\[CMe][^"]*"\s*:\s*["a-z]|^# [a-z-]+ \(not bound\)', re.M)),
    ("gsettings", 0.9, re.compile(r"^[a-z][\w-]*(?:\.[\w-]+)+ [a-z0-9-]+ (?:@as )?['\"\[]", re.M)),
    ("program", 1.0, re.compile(r'^format = "glimber-program/', re.M)),
    ("man", 0.95, re.compile(r"^\.(?:TH|Dd|Dt|SH|Sh)\s", re.M)),
    ("markdown", 0.85, re.compile(r"^\s*\|?\s*:?-{3,}:?\s*\|", re.M)),
    ("html", 0.9, re.compile(r"<(?:!doctype html|html|table|dl|kbd|ul|body)\b", re.I)),
    ("xml", 0.85, re.compile(r"\A\s*(?:<!--.*?-->\s*)*<(?:\?xml|[A-Za-z])", re.S)),
    ("json", 0.85, re.compile(r"\A\s*(?:(?://[^\n]*|/\*.*?\*/)\s*)*[\[{]\s*(?:[\]\[{}\"]|//|/\*)", re.S)),
    ("rst", 0.8, re.compile(r"^\.\. (?:list-table|csv-table|_|contents|note)|:kbd:`|^=+(?: +=+)+$|^\+[-=]+\+[-=+]*$", re.M)),
    ("asciidoc", 0.8, re.compile(r"^\|={3,}$|kbd:\[|^\S.*::$", re.M)),
    ("script", 0.75, re.compile(r"\b(?:map|bind|set_?key|key)\w*\s*\(\s*[\"'{\[]|\((?:global-set-key|define-key|keymap-set|"
                                r"gtk_accel_path|bind-key)\b|keymap\.set\(", re.I)),
    ("config", 0.7, re.compile(r"^\s*(?:[a-z]*(?:nore)?map!?|bind\w*|bindsym|copymap|def_key|key ?bind\w*)\s+\S", re.M | re.I)),
    ("toml", 0.55, re.compile(r"^\[[\w.\"-]+\]\s*$(?:\n.*)*?^[\w\"'+<>-]+ = [\"\[]", re.M)),
    ("yaml", 0.5, re.compile(r"^(?:- )?\s*[\w\"'+<>-]+:(?: |$)", re.M)),
    ("markdown", 0.5, re.compile(r"^\s*[-*] +\S.*(?:`| — | - |: )|^#{1,6} \S", re.M)),
    ("csv", 0.5, re.compile(r"^[^,;\t|\n]+[,;\t|][^\n]*\n[^,;\t|\n]*[,;\t|]", re.M)),
    ("config", 0.4, re.compile(r"^\s*\S+\s*=\s*\S|^\s*[A-Za-z_<][\w+<>-]* \S", re.M)),
)  # fmt: skip


class Chosen(Struct, frozen=True):
    """The kind a source was read as, what was found, and the kind that comes second, where there is one."""

    kind: str
    found: Found
    second: str | None = None


def kinds_of(name: str, data: bytes) -> list[str]:
    """The kinds a source may be, the surest first: by its contents, the ending of its name, or the look of its lines."""
    if data.startswith(b"PK\x03\x04"):
        return ["pack" if b"folio.toml" in data else "spreadsheet"]
    lower = name.lower()
    sure: dict[str, float] = {"text": 0.45, "config": 0.35}
    if lower.rsplit("/", 1)[-1] in ("inputrc", ".inputrc"):
        sure["line-editor"] = 1.0
    stem, ending = _ending(lower)
    if ending in _ENDINGS:
        sure[_ENDINGS[ending]] = 0.8
    if ending == ".txt" and re.search(r"[_.-]man\b|\bman[_.-]", stem):
        sure["text"] = 0.8
    head = decoded(data[:_HEAD]).lstrip("\ufeff")
    if data.startswith(b"\x1f\x8b"):
        return ["man"]
    for kind, how_sure, pattern in _SNIFFED:
        if pattern.search(head):
            sure[kind] = max(sure.get(kind, 0.0), how_sure) + (
                0.1 if kind in sure and kind == _ENDINGS.get(ending) else 0.0
            )
    if "program" in sure:
        return ["program"]
    order = sorted(sure, key=lambda kind: -sure[kind])
    return [kind for kind in order if sure[kind] >= sure[order[0]] - _CLOSE][:_TRIED]


def _ending(name: str) -> tuple[str, str]:
    stem, dot, last = name.rpartition(".")
    return (stem, f".{last}") if dot else (name, "")


def kind_of(name: str, data: bytes) -> str:
    """The kind a source is read as: of those it may be, the one that finds most sound bindings."""
    return choose(name, data).kind


def choose(name: str, data: bytes, options: Options = Options()) -> Chosen:
    """Read a source as every kind it may well be, and keep the reading with most sound bindings. Raises StoppedError."""
    order = kinds_of(name, data)
    tried = [(kind, read(kind, data, options)) for kind in order]
    if not any(found.sound for _, found in tried) and order[0] not in _PACKED:
        more = [kind for kind in ("text", "config") if kind not in order]
        order += more
        tried += [(kind, read(kind, data, options)) for kind in more]
    tried.sort(key=lambda one: -_worth(one[1], order.index(one[0])))
    kind, found = tried[0]
    second = next((other for other, its in tried[1:] if its.sound), None)
    return Chosen(kind, found, second)


def _worth(found: Found, place: int) -> float:
    """Sound bindings, less what could not be read; a reader that was less sure must find clearly more."""
    faults = sum(1 for one in found.problems if one.line)
    return (found.sound - 0.5 * min(faults, found.sound + 3)) * (1.0, 0.85, 0.75, 0.7)[min(place, 3)] - 0.001 * place


@cache
def readers() -> Mapping[str, Reader]:
    """All readers by the kind they read, loaded when they are first asked for."""
    return {point.name: point.load() for point in sorted(entry_points(group=GROUP), key=lambda point: point.name)}


def kinds() -> list[str]:
    """The kinds of source there are readers for."""
    return sorted(point.name for point in entry_points(group=GROUP))


def read(kind: str, data: bytes, options: Options = Options()) -> Found:
    """Read a source of a kind. Raises KeyError for a kind there is no reader for."""
    reader = readers()[kind]
    if kind not in _PACKED and (len(data) > MOST_BYTES or data.count(b"\n") > MOST_LINES):
        lines = data.count(b"\n") + 1
        most = f"at most {MOST_BYTES / 1e6:.0f} MB and {MOST_LINES:,} lines"
        return Found().fail(f"{len(data) / 1e6:.1f} MB in {lines:,} lines; expected a list of {most}")
    # All that a reader makes lives until it is done: looking through it again and again would make long lists cost more.
    collecting = gc.isenabled()
    gc.disable()
    try:
        return reader(data, options).settle(options)
    except StoppedError:
        raise
    except TooManyError:
        return Found().fail(f"more than {MOST_CANDIDATES:,} rows; expected a list of shortcuts. Nothing was read")
    except (
        Exception,
        RecursionError,
    ) as error:  # a fault of a reader is a problem of its source, never the end of Glimber
        _LOG.error("the reader of %s failed", kind, exc_info=error)
        return Found().fail(f"could not be read as {kind} ({type(error).__name__}: {str(error)[:200]})")
    finally:
        if collecting:
            gc.enable()
