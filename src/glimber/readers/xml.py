"""XML: documents that carry key combinations as elements, interface files with accelerators, and settings schemas.

No entity of a document's own is expanded and nothing is fetched.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from html.entities import html5
from itertools import islice
from typing import Final

from lxml import etree

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.desktop import add_setting
from glimber.readers.element import Element
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options
from glimber.readers.reader import Reader
from glimber.readers.table import Line, read_table

_COMBOS: Final = ("keycombo", "keyseq", "keycap", "keysym", "keycode", "key", "shortcut")
_ATTRIBUTES: Final = (
    "accelerator",
    "accel",
    "shortcut",
    "keys",
    "first-keystroke",
    "keystroke",
    "keybinding",
    "binding",
    "key",
)
_SECOND: Final = "second-keystroke"
_KEY_ELEMENTS: Final = frozenset(
    "key keys bind binding keybinding shortcut accelerator accel hotkey keystroke combo sequence".split()
)
_NAME_ELEMENTS: Final = frozenset("command action function name label title description".split())
_NAMES: Final = ("label", "title", "text", "description", "command", "action", "value", "name", "id", "to")
_NAMES_OF_KEYED: Final = ("label", "title", "text", "description", "name", "command", "action", "value", "id", "code")
_ROWS: Final = ("tr", "row")
_CELLS: Final = ("td", "th", "entry")
_BLOCKS: Final = frozenset({"p", "para", "simpara", "title", "item", "listitem", "member", "td", "entry", "br"})
_MASKS: Final = {"A": "Alt", "1": "Alt", "C": "Ctrl", "S": "Shift", "4": "Super", "H": "Hyper"}
_SWITCHES: Final = frozenset({"yes", "no", "true", "false", "on", "off"})
MOST_ARGUMENTS: Final = 3
LONGEST_ARGUMENT: Final = 60
_NOT_STRINGS: Final = frozenset({"bool", "boolean", "empty", "int", "double", "uint"})


def read(data: bytes, options: Options) -> Found:
    """Read an XML document."""
    found = Found(watch=options.watch)
    root, fault, line = _root(_with_named_keys(data))
    if root is None:
        return found.fail(f"not XML that can be read: {fault}", line)
    if root.tag == "schemalist" or _name(root) == "schema":
        _schemas(root, found)
    else:
        _tables(root, found, options)
        _combinations(root, found)
        _accelerators(root, found)
        if not found.any:
            _keyed_texts(root, found)
    if not found.any:
        found.fail(f"no key combinations and no accelerators in it{f' ({fault})' if fault else ''}")
    return found


def _root(data: bytes) -> tuple[Element, str, int]:
    """The root element, and what is wrong with the document; one with entities of its own is read without them."""
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
        if _name(element) and _own_text(element) and any(element.get(name) for name in (*_NAMES, "code")):
            by_name.setdefault(_name(element), []).append(element)
    for elements in by_name.values():
        if len(elements) >= 2 and sum(map(_is_key_text, elements)) >= 0.7 * len(elements):
            for element in elements:
                _add_keyed_text(element, found)
    for element in root.iter():
        _add_side_by_side(element, found)


def _is_key_text(element: Element) -> bool:
    text = _own_text(element) or ""
    return bool(evidence(text)) or len(text) == 1 or key_named(text, marked=True) is not None


def _add_keyed_text(element: Element, found: Found) -> None:
    text = _own_text(element) or ""
    command = next((element.get(name) for name in _NAMES_OF_KEYED if element.get(name)), "")
    held = str(element.get("modifiers") or element.get("modifier") or "")
    keys = text if held.lower() in ("", "none", "any") else f"{re.sub(r'[,|&]+| +', '+', held)}+{text}"
    found.add(str(command), keys, _group_above(element), element.sourceline or 0)


def _add_side_by_side(element: Element, found: Found) -> None:
    keyed = [child for child in element if _name(child).lower() in _KEY_ELEMENTS and _key_text(child)]
    named = [child for child in element if _name(child).lower() in _NAME_ELEMENTS and _own_text(child)]
    if not keyed or not named:
        return
    if len({_name(child) for child in named}) > 1:  # the same command by several of its names
        named = named[:1]
    # One name with several keys beside it has all of them.
    beside = [[one] for one in keyed] if len(named) == len(keyed) else [keyed]
    for name, its in zip(named, beside, strict=False):
        keys = " or ".join(_key_text(one) or "" for one in its)
        found.add(_own_text(name) or "", keys, _group_above(element), its[0].sourceline or 0)


def _key_text(element: Element) -> str | None:
    """Return the keys in an element: its text, or that of the key caps in it."""
    caps = all(_name(child) == "keycap" for child in element)
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
        name = _name(element)
        if name == "title":
            group = _text(element) or group
        if name not in ("table", "informaltable", "tgroup") or any(_name(one) in ("table", "tgroup") for one in element.iter()
                                                                   if one is not element):  # fmt: skip
            continue
        lines = []
        for row in element.iter():
            if _name(row) in _ROWS:
                cells = [cell for cell in row if _name(cell) in _CELLS]
                head = any(_name(above) == "thead" for above in row.iterancestors()) or all(
                    _name(one) == "th" for one in cells
                )
                lines.append(Line(row.sourceline or 0, tuple(map(_flow, cells)), bool(cells) and head))
        read_table(lines, found, options, group)
        for one in list(element.iter()):
            if _name(one) in _ROWS:
                one.clear()  # it has been read


def _flow(element: Element) -> str:
    """The text of a cell as it reads: key combinations joined, blocks on lines of their own."""
    out: list[str] = []

    def walk(node: Element) -> None:
        if _name(node) in ("keycombo", "keyseq"):
            out.append(f" {_combo(node)} ")
        else:
            if _name(node) in _BLOCKS and next((piece for piece in reversed(out) if piece.strip(" ")), "\n") != "\n":
                out.append("\n")
            out.append(" ".join((node.text or "").split(" ")))
            for child in node:
                if isinstance(child.tag, str):
                    walk(child)
                    out.append(child.tail or "")

    walk(element)
    lines = re.sub(r"[ \t]*(?:\n[ \t]*)+", lambda match: "\n" if "\n" in match[0] else " ", "".join(_folded(out)))
    return re.sub(r" +([.,;:])", r"\1", re.sub(r"[ \t]+", " ", lines)).strip()


def _folded(pieces: list[str]) -> list[str]:
    """Line ends within the text of the source are blanks; those between blocks stay."""
    return [piece if piece == "\n" else re.sub(r"\s+", " ", piece) for piece in pieces]


def _name(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _text(element: Element, without: Collection[Element] = ()) -> str:
    """All text of an element, some parts left out, blanks folded."""
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
        name = _name(element)
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
            name != "row" and any(_name(child) in ("row", "varlistentry") for child in element.iterdescendants())
        ):
            continue
        keys = " or ".join(_combo(combo) for combo in combos)
        found.add(_text(element, tuple(combos)), keys, group, element.sourceline or 0)
        used.update(element.iter())


def _combos_in(element: Element) -> list[Element]:
    """The outermost combination elements below an element."""
    return [
        node
        for node in element.iter()
        if node is not element and _name(node) in _COMBOS
        and not any(_name(above) in _COMBOS for above in node.iterancestors() if above is not element)
    ]  # fmt: skip


def _combo(element: Element) -> str:
    """Keys that are pressed together have a plus between; a sequence of combinations, or one that says so, has blanks."""
    parts = [_combo(child) for child in element if _name(child) in _COMBOS]
    if not parts:
        return " ".join("".join(element.itertext()).split())
    steps = _name(element) == "keyseq" and (element.get("type") == "sequence" or any(
        _name(child) == "keycombo" for child in element))  # fmt: skip
    return (" " if steps else "+").join(parts)


def _accelerators(root: Element, found: Found) -> None:
    """Elements with keys in an attribute, by its name or by the look of what stands in it, and objects with such properties."""
    keyed = _keyed_attributes(root)
    group: str | None = None
    for element in root.iter():
        name = _name(element)
        if not name:
            continue
        properties = {child.get("name"): " ".join("".join(child.itertext()).split()) for child in element
                      if _name(child) == "property" and child.get("name") and not child.get("value")}  # fmt: skip
        told = {str(attribute): str(value) for attribute, value in {**dict(element.attrib), **properties}.items()}
        if told.get("type") in _NOT_STRINGS:
            group = told.get("name") or group or "" if told.get("type") == "empty" else group
            continue
        attribute = _key_attribute(told, keyed.get(name))
        command = _command_of(element, told, attribute, bool(properties)) if attribute is not None else None
        if attribute is None or command is None:
            continue
        if attribute in ("accel", "accelerator"):
            command = command.replace("_", "")
        found.add(command, _keys_told(told, attribute), group, element.sourceline or 0)


def _key_attribute(told: Mapping[str, str], own: str | None) -> str | None:
    """Return the attribute that has the keys: the one that the file uses for it, or one that is called so."""
    if own is not None and own in told:
        return own
    attribute = next((one for one in _ATTRIBUTES if told.get(one)), None)
    return attribute if attribute is not None and (attribute != "key" or evidence(told[attribute])) else None


def _command_of(element: Element, told: Mapping[str, str], attribute: str, has_properties: bool) -> str | None:
    beside = _own_text(element) or _beside(element)
    if attribute == "key" and len(told) < 2 and not has_properties:
        return beside or None
    return next((told[one] for one in _NAMES if one != attribute and told.get(one)), None) or beside


def _keys_told(told: Mapping[str, str], attribute: str) -> str:
    """Return the keys with the second stroke and the modifiers that other attributes give."""
    keys = told[attribute]
    if told.get(_SECOND):
        keys = f"{keys} then {told[_SECOND]}"
    mask = re.sub(r"\s", "", told.get("mask", ""))
    if mask and set(mask) <= _MASKS.keys():
        keys = "+".join([*(_MASKS[letter] for letter in mask), keys])
    if told.get("modifiers"):
        keys = f"{told['modifiers'].replace(',', '+').replace(' ', '+')}+{keys}"
    return keys


def _own_text(element: Element) -> str | None:
    text = " ".join((element.text or "").split())
    return text if text and len(element) == 0 else None


def _beside(element: Element) -> str | None:
    """Return what an element's keys are for, where its parent or its child says so."""
    child = next((one for one in element if isinstance(one.tag, str)), None)
    for other in (child, element.getparent()):
        if other is not None:
            found = next((str(other.get(name)) for name in _NAMES if other.get(name)), None)
            if found is not None:
                return " ".join([found, *_arguments(other)]) if other is child else found
    return None


def _arguments(action: Element) -> list[str]:
    """Return what an action is done with, where its own elements say so: <to>left</to> tells it from the one to the right."""
    texts = (own for one in action if (own := _own_text(one)) is not None and own.lower() not in _SWITCHES)
    return [text for text in islice(texts, MOST_ARGUMENTS) if len(text) <= LONGEST_ARGUMENT]


def _keyed_attributes(root: Element) -> dict[str, str]:
    """By element: the attribute in which most values look like keys, where none has a name that says so."""
    values: dict[tuple[str, str], list[str]] = {}
    for element in root.iter():
        name = _name(element)
        if name and element.get("type") not in _NOT_STRINGS:
            for attribute, value in element.attrib.items():
                seen = values.setdefault((name, str(attribute)), [])
                if len(seen) < 400:
                    seen.append(value)
    found: dict[str, tuple[float, str]] = {}
    for (name, attribute), seen in values.items():
        looks = [evidence(value) for value in seen]
        share, strong = sum(look > 0 for look in looks) / len(looks), sum(look == 2 for look in looks)
        if share >= 0.6 and strong >= max(2, 0.3 * len(looks)) and share > found.get(name, (0.0, ""))[0]:
            found[name] = (share, attribute)
    return {name: attribute for name, (_, attribute) in found.items()}


def _schemas(root: Element, found: Found) -> None:
    for schema in root.iter("schema"):
        for key in schema.iter("key"):
            default = key.find("default")
            summary = key.find("summary")
            told = " ".join((summary.text or "").split()) if summary is not None else ""
            value = "".join(default.itertext()) if default is not None else ""
            add_setting(
                found, str(schema.get("id") or ""), str(key.get("name") or ""), value, key.sourceline or 0, told
            )


READERS = (
    Reader(
        "xml",
        read,
        endings=(".xml", ".ui", ".page", ".docbook"),
        signs=((0.85, re.compile(r"\A\s*(?:<!--.*?-->\s*)*<(?:\?xml|[A-Za-z])", re.S)),),
    ),
)
