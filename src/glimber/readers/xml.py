"""XML: documents that carry key combinations as elements, interface files with accelerators, and settings schemas.

No entity of a document's own is expanded and nothing is fetched.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import Any, Final

from lxml import etree

from glimber.readers.desktop import add_setting
from glimber.readers.found import Found, Options

_COMBOS: Final = ("keycombo", "keyseq", "keycap", "keysym", "keycode", "shortcut")
_ATTRIBUTES: Final = ("accelerator", "accel", "shortcut", "keys", "key")
_NAMES: Final = ("label", "title", "text", "name", "action", "command", "id")


def read(data: bytes, options: Options) -> Found:
    """Read an XML document."""
    found = Found(watch=options.watch)
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True,
                             remove_pis=True)  # fmt: skip
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        return found.fail(f"not XML that can be read: {error}", getattr(error, "lineno", None) or 0)
    if root.tag == "schemalist" or _name(root) == "schema":
        _schemas(root, found)
    else:
        _combinations(root, found)
        _accelerators(root, found)
    if not (found.rows or found.not_bindings or found.problems):
        found.fail("no key combinations and no accelerators in it")
    return found


def _name(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _text(element: Any, without: Collection[Any] = ()) -> str:
    """All text of an element, some parts left out, blanks folded."""
    out: list[str] = []

    def walk(node: Any) -> None:
        out.append(node.text or "")
        for child in node:
            if isinstance(child.tag, str) and child not in left_out:
                walk(child)
            out.append(child.tail or "")

    left_out = frozenset(without)
    walk(element)
    return " ".join(" ".join(out).split()).strip(" :–—-")


def _combinations(root: Any, found: Found) -> None:
    """Rows, list entries and terms that hold combination elements; the rest of their text is the command."""
    used: set[Any] = set()
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


def _combos_in(element: Any) -> list[Any]:
    """The outermost combination elements below an element."""
    return [
        node
        for node in element.iter()
        if node is not element and _name(node) in _COMBOS
        and not any(_name(above) in _COMBOS for above in node.iterancestors() if above is not element)
    ]  # fmt: skip


def _combo(element: Any) -> str:
    parts = [_combo(child) for child in element if _name(child) in _COMBOS]
    if not parts:
        return " ".join("".join(element.itertext()).split())
    return (" " if _name(element) == "keyseq" else "+").join(parts)


def _accelerators(root: Any, found: Found) -> None:
    """Elements with an accelerator attribute, and objects whose properties are one."""
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        properties = {child.get("name"): " ".join("".join(child.itertext()).split()) for child in element
                      if _name(child) == "property" and child.get("name")}  # fmt: skip
        told = {**dict(element.attrib), **properties}
        keys = next((told[name] for name in _ATTRIBUTES if told.get(name)), None)
        command = next((told[name] for name in _NAMES if told.get(name)), None)
        if (
            keys is None
            or command is None
            or (not properties and "key" in told and keys == told.get("key") and len(told) < 2)
        ):
            continue
        if told.get("modifiers"):
            keys = f"{told['modifiers'].replace(',', '+').replace(' ', '+')}+{keys}"
        found.add(str(command).replace("_", ""), str(keys), None, element.sourceline or 0)


def _schemas(root: Any, found: Found) -> None:
    for schema in root.iter("schema"):
        for key in schema.iter("key"):
            default = key.find("default")
            summary = key.find("summary")
            told = " ".join((summary.text or "").split()) if summary is not None else ""
            value = "".join(default.itertext()) if default is not None else ""
            add_setting(
                found, str(schema.get("id") or ""), str(key.get("name") or ""), value, key.sourceline or 0, told
            )
