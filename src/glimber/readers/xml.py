"""XML: documents that carry key combinations as elements, interface files with accelerators, and settings schemas.

No entity of a document's own is expanded and nothing is fetched.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from html.entities import html5
from typing import Final

from lxml import etree

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.desktop import add_setting
from glimber.readers.element import Element, name_of, own_text
from glimber.readers.evidence import evidence, looks_like_keys
from glimber.readers.found import Found, Options
from glimber.readers.reader import Reader
from glimber.readers.table import Line, read_table
from glimber.readers.xml_accelerators import NAMES, add_accelerators
from glimber.readers.xml_named_keys import add_named_keys

_COMBOS: Final = ("keycombo", "keyseq", "keycap", "keysym", "keycode", "key", "shortcut")
_KEY_ELEMENTS: Final = frozenset(
    "key keys bind binding keybinding shortcut accelerator accel hotkey keystroke combo sequence".split()
)
_NAME_ELEMENTS: Final = frozenset("command action function name label title description".split())
_NAMES_OF_KEYED: Final = ("label", "title", "text", "description", "name", "command", "action", "function", "value", "id", "code")
_MODIFIER: Final = re.compile(r"(?i)[lr]?(?:ctrl|control|shift|alt|meta|super)")
"""A modifier in a list of them without anything between: "LSHIFTCTRL"."""
_LEAST_RECORDS: Final = 2
_SHARE_OF_KEYS: Final = 0.6
_SHARE_OF_NAMES: Final = 0.2
_KEY_CAPS: Final = frozenset({"key", "keycap", "keycombo", "keyseq"})
_COMBINED: Final = frozenset({"keycombo", "keyseq"})
_BETWEEN: Final = re.compile(r"(?:[,/\s]|\b(?:or|and|to)\b)+")
"""What stands between keys in a cell that has nothing else."""
_ROWS: Final = ("tr", "row", "strow", "sthead")
_CELLS: Final = ("td", "th", "entry", "stentry")
_TABLES: Final = ("table", "informaltable", "tgroup", "simpletable")
_BLOCKS: Final = frozenset({"p", "para", "simpara", "title", "item", "listitem", "member", "td", "entry", "br"})


def read(data: bytes, options: Options) -> Found:
    """Read an XML document."""
    found = Found(watch=options.watch)
    root, fault, line = _root(_with_named_keys(data))
    if root is None:
        return found.fail(f"not XML that can be read: {fault}", line)
    if root.tag == "schemalist" or name_of(root) == "schema":
        _schemas(root, found)
    else:
        add_named_keys(root, found)
        if found.any:
            return found
        _tables(root, found, options)
        _combinations(root, found)
        add_accelerators(root, found)
        if not found.any:
            _keyed_texts(root, found)
        if not found.any:
            _records(root, found)
    if not found.any:
        found.fail(f"no key combinations and no accelerators in it{f' ({fault})' if fault else ''}")
    return found


def _root(data: bytes) -> tuple[Element, str, int]:
    """Return the root element, and what is wrong with the document; one with entities of its own is read without them."""
    fault, line = "", 0
    for recover in (False, True):
        parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True,
                                 remove_pis=True, recover=recover)  # fmt: skip
        try:
            root = etree.fromstring(data, parser)
        except (etree.XMLSyntaxError, ValueError) as error:
            fault, line = fault or str(error), line or getattr(error, "lineno", None) or 0
            continue
        if root is not None:
            return root, fault, line
    return None, fault or "it is empty", line


_ENTITY: Final = re.compile(rb"&([A-Za-z][A-Za-z0-9]*);")
_DECLARED: Final = re.compile(rb"<!ENTITY\s+([A-Za-z][\w.-]*)\s+[\"']([^<>&%\"']{0,80})[\"']\s*>")
_HEAD: Final = 8192
_STANDARD: Final = frozenset({b"amp", b"lt", b"gt", b"quot", b"apos"})


def _with_named_keys(data: bytes) -> bytes:
    """Replace entities that are named as keys or modifiers by key elements, those the document sets to a text by that text, and
    others by their names.

    Documents of a family share such entities in files that do not come with them: ``&Ctrl;<keycap>E</keycap>``, ``&PgUp;``.
    """
    own = {match[1]: match[2] for match in _DECLARED.finditer(data[:_HEAD])}

    def put(match: re.Match[bytes]) -> bytes:
        name = match[1].decode()
        if match[1] in own:
            return own[match[1]]
        if match[1] in _STANDARD or f"&{name};" in html5 or f"{name};" in html5:
            return match[0]
        if modifier_named(name) is not None or key_named(name, marked=True) is not None:
            return b"<keycap>" + match[1] + b"</keycap>"
        return match[1]

    return _ENTITY.sub(put, data)


def _keyed_texts(root: Element, found: Found) -> None:
    """Elements whose text is the key and whose attributes name the command; a key and a command side by side."""
    by_name: dict[str, list[Element]] = {}
    for element in root.iter():
        if name_of(element) and own_text(element) and any(_named(element, name) for name in (*NAMES, "code")):
            by_name.setdefault(name_of(element), []).append(element)
    for elements in by_name.values():
        if len(elements) >= 2 and sum(map(_is_key_text, elements)) >= 0.7 * len(elements):
            for element in elements:
                _add_keyed_text(element, found)
    for element in root.iter():
        _add_side_by_side(element, found)


def _named(element: Element, name: str) -> str:
    """Return an attribute by its name, in small letters or with a capital."""
    return str(element.get(name) or element.get(name.capitalize()) or "")


def _is_key_text(element: Element) -> bool:
    text = own_text(element) or ""
    return bool(evidence(text)) or len(text) == 1 or key_named(text, marked=True) is not None


def _add_keyed_text(element: Element, found: Found) -> None:
    text = own_text(element) or ""
    command = next((named for name in _NAMES_OF_KEYED if (named := _named(element, name))), "")
    held = str(element.get("modifiers") or element.get("modifier") or "")
    keys = text if held.lower() in ("", "none", "any") else f"{re.sub(r'[,|&]+| +', '+', held)}+{text}"
    found.add(str(command), keys, _group_above(element), element.sourceline or 0)


def _add_side_by_side(element: Element, found: Found) -> None:
    keyed = [child for child in element if name_of(child).lower() in _KEY_ELEMENTS and _key_text(child)]
    named = [child for child in element if name_of(child).lower() in _NAME_ELEMENTS and own_text(child)]
    if not keyed or not named:
        return
    if len({name_of(child) for child in named}) > 1:  # the same command by several of its names
        named = sorted(named, key=lambda child: _NAMES_OF_KEYED.index(name_of(child).lower()))[:1]
    # One name with several keys beside it has all of them.
    beside = [[one] for one in keyed] if len(named) == len(keyed) else [keyed]
    for name, its in zip(named, beside, strict=False):
        keys = " or ".join(_with_held(one, _key_text(one) or "") for one in its)
        found.add(own_text(name) or "", keys, _group_above(element), its[0].sourceline or 0)


def _with_held(element: Element, keys: str) -> str:
    """Return keys with the modifiers that an attribute of their element gives: <key state="LSHIFT">LEFT</key>."""
    held = next((str(element.get(name)) for name in ("modifiers", "modifier", "mods", "mod", "state") if element.get(name)), "")
    names = [modifier_named(word) for word in _MODIFIER.findall(held)]
    return "+".join([*(name for name in names if name is not None), keys])


def _records(root: Element, found: Found) -> None:
    """Elements of one name with a child for the command and one for its keys, whatever they are called."""
    by_name: dict[str, list[Element]] = {}
    for element in root.iter():
        if name_of(element) and sum(own_text(child) is not None for child in element) > 1:
            by_name.setdefault(name_of(element), []).append(element)
    for elements in by_name.values():
        fields = _fields_of(elements)
        for element in elements if fields is not None else ():
            command, keys = fields or ("", "")
            of = {name_of(child): (own_text(child) or "", child.sourceline or 0) for child in element}
            if of.get(command, ("", 0))[0] and keys in of:
                alternates = [own_text(child) or "" for child in element if name_of(child) == keys]
                found.add(of[command][0], " or ".join(filter(None, alternates)), None, of[keys][1])


def _fields_of(elements: Sequence[Element]) -> tuple[str, str] | None:
    """Return which children have the command and the keys of elements that are alike; None where none have keys."""
    texts: dict[str, list[str]] = {}
    for element in elements:
        for child in element:
            texts.setdefault(name_of(child), []).append(own_text(child) or "")
    shares = {name: sum(map(looks_like_keys, its)) / len(its) for name, its in texts.items() if len(its) >= _LEAST_RECORDS}
    keys = max(shares, key=lambda name: shares[name], default="")
    words = {name: sum(map(len, texts[name])) for name in shares if shares[name] < _SHARE_OF_NAMES}
    if not words or shares[keys] < _SHARE_OF_KEYS or not any(evidence(text) == 2 for text in texts[keys]):
        return None
    return max(words, key=lambda name: words[name]), keys


def _key_text(element: Element) -> str | None:
    """Return the keys in an element: its text, or that of the key caps in it."""
    caps = all(name_of(child) == "keycap" for child in element)
    return " ".join("".join(element.itertext()).split()) or None if caps else None


def _group_above(element: Element) -> str | None:
    """Return what the nearest element above calls itself."""
    above = element.getparent()
    found = above is not None and next(
        (above.get(name) for name in ("label", "title", "group") if above.get(name)), None
    )
    return str(found) if found else None


def _tables(root: Element, found: Found, options: Options) -> None:
    """Tables of documents: rows of cells, key combinations in them put together."""
    group: str | None = None
    for element in root.iter():
        name = name_of(element)
        if name == "title":
            group = _text(element) or group
        if name not in _TABLES or any(name_of(one) in ("table", "tgroup") for one in element.iter()
                                                                   if one is not element):  # fmt: skip
            continue
        lines = []
        for row in element.iter():
            if name_of(row) in _ROWS:
                cells = [cell for cell in row if name_of(cell) in _CELLS]
                head = any(name_of(above) == "thead" for above in row.iterancestors()) or all(
                    name_of(one) == "th" for one in cells
                )
                keyed = frozenset(place for place, cell in enumerate(cells) if _is_key_caps(cell))
                lines.append(Line(row.sourceline or 0, tuple(map(_flow, cells)), bool(cells) and head, keyed))
        read_table(lines, found, options, group)
        for one in list(element.iter()):
            if name_of(one) in _ROWS:
                one.clear()  # it has been read


def _is_key_caps(cell: Element) -> bool:
    """Return True if all that a cell says stands in marks of keys."""
    caps = {one for one in cell.iter() if name_of(one) in _KEY_CAPS}
    outer = (one for one in cell.iter() if one in caps and not any(above in caps for above in one.iterancestors()))
    within = "".join("".join(one.itertext()) for one in outer)
    return bool(within.strip()) and _BETWEEN.sub("", within) == _BETWEEN.sub("", "".join(cell.itertext()))


def _flow(element: Element) -> str:
    """Return the text of a cell as it reads: key combinations joined, blocks on lines of their own."""
    out: list[str] = []

    def walk(node: Element) -> None:
        if name_of(node) in ("keycombo", "keyseq"):
            alone = len(node) == 1 and _is_key_by_its_mark(node[0])
            out.append(f" <{own_text(node[0])}> " if alone else f" {_combo(node)} ")
        elif name_of(node) in ("key", "keycap") and _is_key_by_its_mark(node):
            out.append(f"<{own_text(node)}>")
        else:
            if name_of(node) in _BLOCKS and next((piece for piece in reversed(out) if piece.strip(" ")), "\n") != "\n":
                out.append("\n")
            out.append(" ".join((node.text or "").split(" ")))
            for child in node:
                if isinstance(child.tag, str):
                    walk(child)
                    out.append(" or " if _parts_combinations(child) else child.tail or "")

    walk(element)
    lines = re.sub(r"[ \t]*(?:\n[ \t]*)+", lambda match: "\n" if "\n" in match[0] else " ", "".join(_folded(out)))
    return re.sub(r" +([.,;:])", r"\1", re.sub(r"[ \t]+", " ", lines)).strip()


def _is_key_by_its_mark(element: Element) -> bool:
    """Return True for a word that is a key only where it is marked as one."""
    text = own_text(element) or ""
    return len(element) == 0 and key_named(text, marked=True) is not None and key_named(text) is None


def _parts_combinations(element: Element) -> bool:
    """Return True where only a comma stands between a combination of keys and the next one: they are alternates."""
    after = element.getnext()
    combined = name_of(element) in _COMBINED and after is not None and name_of(after) in _COMBINED
    return combined and (element.tail or "").strip() == ","


def _folded(pieces: list[str]) -> list[str]:
    """Line ends within the text of the source are blanks; those between blocks stay."""
    return [piece if piece == "\n" else re.sub(r"\s+", " ", piece) for piece in pieces]


def _text(element: Element, without: Collection[Element] = ()) -> str:
    """Return all text of an element, some parts left out, blanks folded."""
    out: list[str] = []

    def walk(node: Element) -> None:
        out.append(node.text or "")
        for child in node:
            if isinstance(child.tag, str) and child not in left_out:
                walk(child)
            out.append(child.tail or "")

    left_out = frozenset(without)
    walk(element)
    return " ".join(" ".join(out).split()).strip(" :–—-")


def _combinations(root: Element, found: Found) -> None:
    """Rows, list entries and terms that hold combination elements; the rest of their text is the command."""
    used: set[Element] = set()
    group: str | None = None
    for element in root.iter():
        name = name_of(element)
        if name == "title" and not _combos_in(element):
            group = _text(element) or group
        if element in used or name not in (
            "row",
            "varlistentry",
            "listitem",
            "member",
            "simpara",
            "entry",
            "item",
            "para",
            "p",
        ):
            continue
        combos = _combos_in(element)
        if not combos or (
            name != "row" and any(name_of(child) in ("row", "varlistentry") for child in element.iterdescendants())
        ):
            continue
        entries = _menu_entries(element)
        for entry, its in entries:
            keys = " or ".join(_combo(combo) for combo in its)
            note = "" if name != "varlistentry" else " ".join(map(_text, element.findall("{*}listitem")))
            found.add(entry, keys, group, element.sourceline or 0, note=note)
        if not entries:
            keys = " or ".join(_combo(combo) for combo in combos)
            found.add(_text(element, tuple(combos)), keys, group, element.sourceline or 0)
        used.update(element.iter())


def _menu_entries(element: Element) -> list[tuple[str, list[Element]]]:
    """Return the entries of menus that an element names together with their keys: the entry is the command, whatever is written
    around."""
    found = []
    for choice in element.iter("{*}menuchoice"):
        entries, combos = [_text(one) for one in choice.iter("{*}guimenuitem")], _combos_in(choice)
        if entries and entries[-1] and combos:
            found.append((entries[-1], combos))
    return found


def _combos_in(element: Element) -> list[Element]:
    """Return the outermost combination elements below an element."""
    return [
        node
        for node in element.iter()
        if node is not element and name_of(node) in _COMBOS
        and not any(name_of(above) in _COMBOS for above in node.iterancestors() if above is not element)
    ]  # fmt: skip


def _combo(element: Element) -> str:
    """Return keys that are pressed together have a plus between; a sequence of combinations, or one that says so, has blanks."""
    parts = [_combo(child) for child in element if name_of(child) in _COMBOS]
    if not parts:
        return " ".join("".join(element.itertext()).split())
    steps = name_of(element) == "keyseq" and (element.get("type") == "sequence" or any(
        name_of(child) == "keycombo" for child in element))  # fmt: skip
    return (" " if steps else "+").join(parts)


def _schemas(root: Element, found: Found) -> None:
    for schema in root.iter("schema"):
        for key in schema.iter("key"):
            default = key.find("default")
            summary = key.find("summary")
            text = " ".join((summary.text or "").split()) if summary is not None else ""
            value = "".join(default.itertext()) if default is not None else ""
            add_setting(
                found, str(schema.get("id") or ""), str(key.get("name") or ""), value, key.sourceline or 0, text
            )


READERS = (
    Reader(
        "xml",
        read,
        endings=(".xml", ".ui", ".page", ".docbook"),
        signs=((0.85, re.compile(r"\A\s*(?:<!--.*?-->\s*)*<(?:\?xml|!DOCTYPE (?!html)|[A-Za-z])", re.S)),),
    ),
)
