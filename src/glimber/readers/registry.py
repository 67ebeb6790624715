"""Which readers there are, by entry point, and which one a source is for."""

from __future__ import annotations

import gc
import logging
import re
from collections.abc import Callable, Mapping
from functools import cache
from importlib.metadata import entry_points
from typing import Final

from glimber.readers.found import Found, Options, Problem, StoppedError, TooManyError, decoded

Reader = Callable[[bytes, Options], Found]
_LOG: Final = logging.getLogger("glimber.readers")
GROUP: Final = "glimber.readers"
MOST_BYTES: Final = 8_000_000
MOST_LINES: Final = 300_000
_PACKED: Final = ("pack", "spreadsheet")
"""What has limits of its own for what it unpacks to."""

_ENDINGS: Final = {
    ".html": "html", ".htm": "html", ".xhtml": "html", ".md": "markdown", ".markdown": "markdown", ".csv": "csv", ".tsv": "csv",
    ".ods": "spreadsheet", ".xlsx": "spreadsheet", ".xml": "xml", ".ui": "xml", ".inputrc": "line-editor", ".toml": "program",
    ".glimber": "pack",
}  # fmt: skip
_SNIFFED: Final = (
    ("line-editor", re.compile(r'^\s*"(?:\\[CMe]|[^"\\])[^"]*"\s*:\s*\S|^# [a-z-]+ \(not bound\)', re.M)),
    ("gsettings", re.compile(r"^[a-z][\w-]*(?:\.[\w-]+)+ [a-z0-9-]+ (?:@as )?['\"\[]", re.M)),
    ("program", re.compile(r'^format = "glimber-program/', re.M)),
    ("markdown", re.compile(r"^\s*\|?\s*:?-{3,}:?\s*\|", re.M)),
    ("html", re.compile(r"<(?:!doctype html|html|table|dl|kbd|ul|body)\b", re.I)),
    ("xml", re.compile(r"^\s*<(?:\?xml|[A-Za-z])")),
    ("markdown", re.compile(r"^\s*[-*] +\S.*(?:`| — | - |: )|^#{1,6} ", re.M)),
    ("csv", re.compile(r"^[^,;\t|\n]+(?:[,;|][^\n]*)$", re.M)),
)  # fmt: skip


@cache
def readers() -> Mapping[str, Reader]:
    """All readers by the kind they read, loaded when they are first asked for."""
    return {point.name: point.load() for point in sorted(entry_points(group=GROUP), key=lambda point: point.name)}


def kinds() -> list[str]:
    """The kinds of source there are readers for."""
    return sorted(point.name for point in entry_points(group=GROUP))


def kind_of(name: str, data: bytes) -> str:
    """The kind of a source: by what its contents begin with, by the ending of its name, or by the look of its lines."""
    if data.startswith(b"PK\x03\x04"):
        return "pack" if b"folio.toml" in data else "spreadsheet"
    lower = name.lower()
    if lower.rsplit("/", 1)[-1] in ("inputrc", ".inputrc"):
        return "line-editor"
    ending = lower[lower.rfind(".") :] if "." in lower else ""
    if ending in _ENDINGS:
        return _ENDINGS[ending]
    head = decoded(data[:20_000])
    for kind, pattern in _SNIFFED:
        if pattern.search(head):
            return kind
    return "text"


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
        return reader(data, options)
    except StoppedError:
        raise
    except TooManyError as error:
        error.found.problems.append(Problem(0, str(error)))
        return error.found
    except (
        Exception,
        RecursionError,
    ) as error:  # a fault of a reader is a problem of its source, never the end of Glimber
        _LOG.error("the reader of %s failed", kind, exc_info=error)
        return Found().fail(f"could not be read as {kind} ({type(error).__name__}: {str(error)[:200]})")
    finally:
        if collecting:
            gc.enable()
