"""Manual pages as they are written: macros for a tagged paragraph with its keys and what they do, headings as groups.

Only the macros that matter are known (TP, IP, SH, SS, It, Sh, Ss …); everything else is text. Sources: groff_man(7) and
groff_mdoc(7).
"""

from __future__ import annotations

import gzip
import re
import zlib
from typing import Final

from glimber.readers.found import Found, Options, decoded
from glimber.readers.plaintext import read_text
from glimber.readers.reader import Reader
from glimber.readers.source_page import Block, lines_of

MOST_UNPACKED: Final = 20_000_000
_FONT: Final = re.compile(r"\\f(?:\[[^\]]*\]|\(..|.)|\\[|&/^,%:]|\\s[+-]?\d|\\\n|\\m\[[^\]]*\]")
_ESCAPES: Final = {
    "\\-": "-", "\\(hy": "-", "\\(em": "—", "\\(en": "–", "\\(bu": "•", "\\(aq": "'", "\\(dq": '"', "\\(ha": "^", "\\(ti": "~",
    "\\(ga": "`", "\\(la": "<", "\\(ra": ">", "\\(<-": "←", "\\(->": "→", "\\(ua": "↑", "\\(da": "↓", "\\(rs": "\\", "\\e": "\\",
    "\\~": " ", "\\ ": " ", "\\(lq": '"', "\\(rq": '"', "\\*(lq": '"', "\\*(rq": '"', "\\(oq": "'", "\\(cq": "'", "\\(at": "@",
    "\\(sh": "#", "\\(ba": "|", "\\0": " ",
}  # fmt: skip
_NAMED: Final = re.compile(r"\\\[(\w+|<-|->)\]")
_ARGUMENT: Final = re.compile(r"\"((?:[^\"]|\"\")*)\"|(\S+)")


def read(data: bytes, options: Options) -> Found:
    """Read a manual page, packed or not."""
    found = Found(watch=options.watch)
    if data.startswith(b"\x1f\x8b"):
        try:
            data = _unpacked(data)
        except (OSError, EOFError, ValueError, zlib.error) as error:
            return found.fail(f"not a packed page that can be read: {error}")
    text = decoded(data)
    if not text.strip():
        return found.fail("the page is empty; expected a manual page")
    body = rendered(text) if re.search(r"^[.'][A-Za-z]{1,2}\b", text, re.M) else text
    if options.page:
        found.page = _page_of(body)
    read_text(body, found)
    return found


def _page_of(body: str) -> list[Block]:
    """Return the lines of a page; where its source has several lines of macros, one empty line is left."""
    lines = lines_of(body)
    before = [None, *lines[:-1]]
    return [line for line, above in zip(lines, before, strict=True) if line.cells[0] or (above and above.cells[0])]


def _unpacked(data: bytes) -> bytes:
    import io

    with gzip.GzipFile(fileobj=io.BytesIO(data)) as file:
        found = file.read(MOST_UNPACKED + 1)
    if len(found) > MOST_UNPACKED:
        raise ValueError(f"it would unpack to more than {MOST_UNPACKED / 1e6:.0f} MB")
    return found


def rendered(text: str) -> str:
    """The page as lines: headings at the margin, tags further in, what they say further still; a line for each line of the
    source, so that places can be told."""
    out: list[str] = []
    tag_next, indent = False, 4
    for line in text.split("\n"):
        if line.startswith(('.\\"', "'\\\"")):
            out.append("")
            continue
        match = re.match(r"^[.']\s*([A-Za-z]{1,3})\b\s*(.*)$", line)
        if match is None:
            body = _plain(line)
            out.append(f"{' ' * (4 if tag_next else indent)}{body}" if body.strip() else "")
            if body.strip():
                indent = 8 if tag_next else indent
                tag_next = False
            continue
        macro, rest = match[1], match[2]
        words = [_plain(one or two) for one, two in _ARGUMENT.findall(rest)]
        if macro in ("SH", "Sh"):
            out.append(" ".join(words).upper())
            indent, tag_next = 4, False
        elif macro in ("SS", "Ss"):
            out.append(f"  {' '.join(words)}:")
            indent, tag_next = 4, False
        elif macro in ("TP", "TQ"):
            out.append("")
            tag_next = True
        elif macro == "IP" and words:
            out.append(f"    {words[0]}")
            indent, tag_next = 8, False
        elif macro == "IX" and out and out[-1].strip():
            out.insert(-1, "")  # an entry of an index, between a tag and what it does: no gap there
        elif macro == "It":
            out.append(f"    {_mdoc(words)}")
            indent, tag_next = 8, False
        elif macro in ("B", "I", "BR", "IR", "RB", "BI", "IB", "RI", "SM", "SB"):
            joined = "".join(words) if len(macro) == 2 and macro not in ("SM", "SB") else " ".join(words)
            out.append(f"{' ' * (4 if tag_next else indent)}{joined}")
            indent, tag_next = (8 if tag_next else indent), False
        elif macro in ("PP", "LP", "P", "Pp", "RE", "El", "RS", "Bl"):
            out.append("")
            indent = 4 if macro in ("PP", "LP", "P", "El", "Bl") else indent
        elif macro[0].isupper() and len(macro) == 2 and macro[1].islower() and words:
            out.append(f"{' ' * indent}{_mdoc([macro, *words])}")
        else:
            out.append("")
    return "\n".join(out)


def _mdoc(words: list[str]) -> str:
    """The text of a line of semantic macros: their names are left out, angle brackets are drawn, and what stands in square ones
    after the keys is left to the description."""
    skipped = {
        "Xo",
        "Xc",
        "Ic",
        "Cm",
        "Li",
        "Sy",
        "Em",
        "Ql",
        "Dq",
        "Sq",
        "Qq",
        "Fl",
        "Ar",
        "Ns",
        "Pf",
        "No",
        "Pa",
        "Nm",
        "Ta",
    }
    text = ""
    joined = False
    for word in words:
        if word == "Bq":
            break
        if word in ("Ao", "Aq"):
            text += " <"
            joined = True
        elif word == "Ac":
            text += ">"
        elif word == "Ns":
            joined = True
        elif word not in skipped:
            text += word if joined or word in (",", ".", ")") else f" {word}"
            joined = False
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
