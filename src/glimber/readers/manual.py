"""Manual pages as they are written: macros for a tagged paragraph with its keys and what they do, headings as groups.

Only the macros that matter are known (TP, IP, SH, SS, It, Sh, Ss …); everything else is text. Sources: groff_man(7) and
groff_mdoc(7).
"""

from __future__ import annotations

import gzip
import re
import zlib
from collections.abc import Iterator
from typing import Final

from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.manual_tables import ManualTable, tables_of
from glimber.readers.plaintext import read_text
from glimber.readers.reader import Reader
from glimber.readers.source_page import Block, lines_of
from glimber.readers.table import read_table

MOST_UNPACKED: Final = 20_000_000
_FONT: Final = re.compile(r"\\f(?:\[[^\]]*\]|\(..|.)|\\[|&/^,%:]|\\s[+-]?\d|\\\n|\\m\[[^\]]*\]")
_ESCAPES: Final = {
    "\\-": "-", "\\(em": "—", "\\(en": "–", "\\(bu": "•", "\\(aq": "'", "\\(dq": '"', "\\(ha": "^", "\\(ti": "~",
    "\\(ga": "`", "\\(la": "<", "\\(ra": ">", "\\(<-": "←", "\\(->": "→", "\\(ua": "↑", "\\(da": "↓", "\\(rs": "\\", "\\e": "\\",
    "\\~": " ", "\\ ": " ", "\\(lq": '"', "\\(rq": '"', "\\*(lq": '"', "\\*(rq": '"', "\\(oq": "'", "\\(cq": "'", "\\(at": "@",
    "\\(sh": "#", "\\(ba": "|", "\\0": " ", "\\*(Aq": "'", "\\(hy": "-", "\\(pl": "+", "\\+": "+", "\\=": "=", "\\>": ">",
    "\\<": "<", "\\.": ".", "\\;": ";", "\\?": "?",
}  # fmt: skip
_NAMED: Final = re.compile(r"\\\[(\w+|<-|->)\]")
_MACRO: Final = re.compile(r"^[.']\s*([A-Za-z]{1,3})\b\s*(.*)$")
_OWN_MACRO: Final = re.compile(r"\.[A-Z]{4,}\b")
"""A macro of a page's own with a long name, such as the indents of pages that are made from other formats."""
_FONTS_IN_TURN: Final = frozenset({"BR", "IR", "RB", "BI", "IB", "RI"})
_FONTS: Final = _FONTS_IN_TURN | {"B", "I", "SM", "SB"}
_PARAGRAPHS_AT_THE_MARGIN: Final = frozenset({"PP", "LP", "P", "El", "Bl"})
_PARAGRAPHS: Final = _PARAGRAPHS_AT_THE_MARGIN | {"Pp", "RE", "RS", "Vb", "Ve"}
_INLINE: Final = frozenset(
    "Ad An Ar At Bx Cd Cm Dc Do Dq Dv Em Er Ev Fa Fl Fn Ft Fx Ic In Li Lk Ms Mt Nd Nm No Ns Nx Oc Oo Op Ox Pa Pc Pf Po Pq "
    "Qc Ql Qo Qq Sc So Sq St Sx Sy Ta Tn Ux Va Vt Xc Xo Xr".split()
)
"""Macros that mark words within a line. Source: mdoc(7)."""
_STRING: Final = re.compile(r"^\.ds\s+(\S+)\s+\"?(.{1,80})$", re.M)
_STRING_USED: Final = re.compile(r"\\\*(?:\((..)|\[([^\]\n]+)\]|(\S))")
_DEFINITION: Final = re.compile(r"^\.de1?\s+(\w+)[^\n]*\n((?:.*\n){0,40}?)\.\.", re.M)
"""A macro of a page's own; one of more lines is none for a paragraph."""
_DRAWN: Final = {"->": "→", "<-": "←"}
_CLOSES: Final = re.compile(r"[)\]][.,;:]?")
_TAGGED: Final = ("TP", "IP", "It")
_ARGUMENT: Final = re.compile(r"\"((?:[^\"]|\"\")*)\"|((?:\\ |\S)+)")
_POINT: Final = re.compile(r"•|\(?\d{1,2}[.)]")
"""What stands before a point of a list."""
_BOLD_LINE: Final = re.compile(r"\\f\[?B\]?.+\\f\[?[RP]\]?")
"""A line all in bold type, which is the tag of a paragraph where a break follows, as in pages made from Markdown."""


def read(data: bytes, options: Options) -> Found:
    """Read a manual page, packed or not."""
    found = Found(watch=options.watch)
    if data.startswith(b"\x1f\x8b"):
        try:
            data = _unpacked(data)
        except (OSError, EOFError, ValueError, zlib.error) as error:
            return found.fail(f"not a packed page that can be read: {error}")
        if data[257:262] == b"ustar":
            return found.fail("an archive of several files; expected one packed page: unpack it and read the file you want")
    text = decoded(data)
    if not text.strip():
        return found.fail("the page is empty; expected a manual page")
    if re.search(r"^[.'][A-Za-z]{1,2}\b", text, re.M) is None:
        body, tables = text, list[ManualTable]()
    else:
        lines = text.split("\n")
        tables = tables_of(lines, _plain)
        body = rendered("\n".join(_without(lines, tables)))
    for table in tables:
        read_table(table.rows, found, options, table.group)
    if options.page:
        found.page = _page_of(_with_rows(body, tables))
    read_text(body, found)
    return found


def _with_rows(body: str, tables: list[ManualTable]) -> str:
    """Return a page with the rows of its tables at their lines."""
    lines = body.split("\n")
    for row in (row for table in tables for row in table.rows):
        lines[row.number - 1] = "    " + "     ".join(" ".join(cell.split()) for cell in row.cells)
    return "\n".join(lines)


def _without(lines: list[str], tables: list[ManualTable]) -> Iterator[str]:
    """Return the lines of a page, with an empty request, which is drawn as an empty line, for each of a table."""
    of_tables = {place for table in tables for place in range(table.first, table.end)}
    return ("." if place in of_tables else line for place, line in enumerate(lines))


def _page_of(body: str) -> list[Block]:
    """Return the lines of a page; where its source has several lines of macros, one empty line is left."""
    lines = lines_of(body)
    before = [None, *lines][: len(lines)]
    return [line for line, above in zip(lines, before, strict=True) if line.cells[0] or (above and above.cells[0])]


def _unpacked(data: bytes) -> bytes:
    import io

    with gzip.GzipFile(fileobj=io.BytesIO(data)) as file:
        found = file.read(MOST_UNPACKED + 1)
    if len(found) > MOST_UNPACKED:
        raise ValueError(f"it would unpack to more than {MOST_UNPACKED / 1e6:.0f} MB")
    return found


def rendered(text: str) -> str:
    """Return the page as lines: headings at the margin, tags further in, what they say further still; a line for each line of the
    source, so that places can be named."""
    page = _Rendering()
    own = _macros_of(text)
    text = _with_strings(text)
    for line in text.split("\n"):
        match = _MACRO.match(line)
        if line.startswith(('.\\"', "'\\\"")):
            page.skip()
        elif _OWN_MACRO.match(line):
            page.text("")
        elif match is None:
            page.text("" if line.strip() == "." else _plain(line), _BOLD_LINE.fullmatch(line.strip()) is not None)
        else:
            page.macro(own.get(match[1], match[1]), _arguments(match[2]))
    return "\n".join(page.lines)


def _arguments(text: str) -> list[str]:
    """Return the arguments of a macro; a quote within quotes is written twice. Source: groff(7), "Macro calls"."""
    return [_plain(quoted.replace('""', '"') or bare) for quoted, bare in _ARGUMENT.findall(text)]


def _with_strings(text: str) -> str:
    """Return a page with the strings that it defines in their places: ".ds Xt see topic" and "\\*(Xt". Source: groff(7)."""
    strings = dict(_STRING.findall(text))
    if not strings:
        return text
    return _STRING_USED.sub(lambda match: strings.get(match[1] or match[2] or match[3], match[0]), text)


def _macros_of(text: str) -> dict[str, str]:
    """Return the macros that a page defines around one for a tagged paragraph, with the one they come to."""
    bodies = dict(_DEFINITION.findall(text))
    return {name: one for name, body in bodies.items() for one in _TAGGED if re.search(rf"^\.{one}\b", body, re.M)}


class _Rendering:
    """The lines of a page so far, and how far in the next ones stand."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self._tag_next = False
        """True where the next line is the tag of a paragraph."""
        self._joins_tag = False
        """True where the next line is another tag of the same paragraph."""
        self._begun = False
        """True right after a macro that begins a paragraph: keys in a font of their own are its tag there."""
        self._after_bold = self._breaks = False
        """Whether the last line was all in bold type, and whether only a break of the line follows it."""
        self._indent = 4
        self._name = ""
        """The program the page is about, which the macro of a name without one stands for."""

    def skip(self) -> None:
        """Add an empty line for one that is not drawn: above the last line, which may be a tag with its text to come."""
        self.lines.insert(-1 if self.lines and self.lines[-1].strip() else len(self.lines), "")

    def text(self, body: str, bold: bool = False) -> None:
        """Add a line of text: a tag where one is due. ``bold``: all of it is in bold type."""
        self._after_bold, self._begun = bold, False
        if self._joins_tag and evidence(body) and evidence(self.lines[-1]):
            self.lines[-1] = f"{self.lines[-1]} or {_tag(body)}"
            self._joins_tag = self._tag_next = False
            self.skip()
            return
        self._joins_tag = False
        if not body.strip():
            self.lines.append("")
            return
        if self.lines and self.lines[-1].strip() and _CLOSES.fullmatch(body.strip()):
            self.lines[-1] += body.strip()  # it is set in the same line
            self.lines.append("")
            return
        self.lines.append(f"{' ' * 4}{_tag(body)}" if self._tag_next else f"{' ' * self._indent}{body}")
        self._indent = 8 if self._tag_next else self._indent
        self._tag_next = False

    def macro(self, name: str, words: list[str]) -> None:
        """Add what a macro stands for."""
        begun, self._begun = self._begun, name in _PARAGRAPHS_AT_THE_MARGIN
        if name == "Nm":
            self._name = self._name or " ".join(words[:1])
            words = words if words and words[0].isalnum() else [self._name, *words]
        if name in ("SH", "Sh", "SS", "Ss"):
            self._heading(name, " ".join(words))
        elif self._is_break_after_tag(name, words):
            self.skip()
        elif name == "TQ" and self.lines and evidence(self.lines[-1]):
            self.skip()
            self._tag_next = self._joins_tag = True
        elif name in ("TP", "TQ", "HP"):
            self.lines.append("")
            self._tag_next = True
        elif name == "IP" and words and _POINT.fullmatch(words[0]):
            self.lines.append("")  # a point of a list, and no tag
            self._indent = 4
        elif name == "It" or (name == "IP" and words):
            self._put(f"    {_mdoc(words) if name == 'It' else _tag(words[0])}", 8)
        elif name == "IX":
            self.skip()  # an entry of an index, between a tag and what it does
        elif name in _FONTS:
            words = _with_argument(words) if name == "BI" and self._tag_next else words
            words_in_font = ("" if name in _FONTS_IN_TURN else " ").join(words)
            self._tag_next |= begun and evidence(words_in_font) == 2
            self._in_font(words_in_font)
        elif name == "RS" and self.lines and self.lines[-1].strip():
            self.skip()  # a paragraph before an indented one is its tag: so pages are written that are made from other formats
            self._indent = 8
        elif name in _PARAGRAPHS:
            self.lines.append("")
            self._indent = 4 if name in _PARAGRAPHS_AT_THE_MARGIN or name == "RE" else self._indent
        elif len(name) == 2 and name[0].isupper() and name[1].islower() and words:
            self.lines.append(f"{' ' * self._indent}{_mdoc([name, *words])}")
        else:
            self.lines.append("")

    def _is_break_after_tag(self, name: str, words: list[str]) -> bool:
        """Return True for the macros of a mere break after a line in bold type; what follows them stands further in."""
        begins = name == "PD" and words == ["0"] and self._after_bold and bool(self.lines[-1:])
        ends = self._breaks and name == "PD" and not words
        inside = self._breaks and name in _PARAGRAPHS_AT_THE_MARGIN
        self._breaks = begins or inside
        self._indent = 8 if ends else self._indent
        return begins or inside or ends

    def _heading(self, name: str, words: str) -> None:
        self._put(words.upper() if name[1] in "Hh" else f"  {words}:", 4)

    def _in_font(self, words: str) -> None:
        if self._tag_next:
            self.text(words)
        else:
            self._put(f"{' ' * self._indent}{words}", self._indent)

    def _put(self, line: str, indent: int) -> None:
        self.lines.append(line)
        self._indent, self._tag_next = indent, False


def _with_argument(words: list[str]) -> list[str]:
    """Return a tag whose key is set bold and what is typed after it slanted with that in angle brackets: "o" and " id|range"."""
    if len(words) != 2 or not words[1].startswith(" ") or not evidence(words[0]):
        return words
    return [words[0], f" <{'-'.join(re.findall(r'[A-Za-z]+', words[1])) or 'text'}>"]


def _tag(text: str) -> str:
    """Return the tag of a paragraph: keys with strokes between are alternates, and an arrow alone is the key."""
    body = " ".join(text.split())
    pieces = body.split(" | ")
    return " or ".join(pieces) if len(pieces) > 1 and all(map(evidence, pieces)) else _DRAWN.get(body, body)


def _mdoc(words: list[str]) -> str:
    """Return the text of a line of semantic macros: their names are left out, angle brackets are drawn, and what stands in square
    ones after the keys is left to the description."""
    text = ""
    joined = False
    for word in words:
        if word == "Bq":
            break
        if word in ("Ao", "Aq"):
            text += " <"
            joined = True
        elif word == "Ta":
            text += "     "  # the next column
            joined = True
        elif word == "Ac":
            text += ">"
        elif word == "Ns":
            joined = True
        elif word == "Fl":
            text += " -"
            joined = True
        elif word not in _INLINE:
            text += word if joined or word in (",", ".", ")") else f" {word}"
            joined = word == "("
    return text.strip()


def _plain(text: str) -> str:
    text = _NAMED.sub(lambda match: f"\\({match[1]}" if len(match[1]) == 2 else match[0], text)
    text = _FONT.sub("", text)
    for escape, sign in _ESCAPES.items():
        text = text.replace(escape, sign)
    return text


READERS = (
    Reader(
        "man",
        read,
        endings=(".1", ".5", ".7", ".8", ".gz"),
        signs=((0.95, re.compile(r"^\.(?:TH|Dd|Dt|SH|Sh)\s", re.M)),),
        unpacks=True,
    ),
)
