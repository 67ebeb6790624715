"""Accelerators in XML: elements with keys in an attribute or a property, and the command beside them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from itertools import islice
from typing import Final

from glimber.core.notation.key_constants import key_of_virtual_code
from glimber.core.notation.keywords import key_named
from glimber.readers.element import Element, name_of, own_text
from glimber.readers.evidence import evidence
from glimber.readers.found import Found
from glimber.readers.mnemonics import without_mnemonic

_ATTRIBUTES: Final = (
    "accelerator",
    "accel",
    "shortcut",
    "keys",
    "first-keystroke",
    "keystroke",
    "keybinding",
    "binding",
    "sequence",
    "gesture",
    "key",
)
_SECOND: Final = "second-keystroke"
_MASKS: Final = {"A": "Alt", "1": "Alt", "C": "Ctrl", "S": "Shift", "4": "Super", "H": "Hyper"}
_SWITCHES: Final = frozenset({"yes", "no", "true", "false", "on", "off"})
_SWITCHED_ON: Final = frozenset({"yes", "true", "on", "1"})
_MODIFIERS: Final = ("ctrl", "control", "alt", "shift", "command", "cmd", "meta", "super", "win", "mod1", "mod2")
_OFFICE: Final = {"mod1": "ctrl", "mod2": "alt"}
"""Modifiers by number in accelerator lists of office documents. Source: the OpenDocument toolkit's accelerator configuration."""
_ACCELERATORS: Final = re.compile(r"(?:<\w+>)*\w+(?: +(?:<\w+>)*\w+)*")
"""Accelerators of GTK: several have a blank between. Source: GtkShortcutsShortcut:accelerator."""
_ALONE: Final = re.compile(r"(?<![<\w])\w{2,}$")
_BOUND: Final = re.compile(r"^\{\w*Binding ([\w.]+)[^{}]*\}$")
"""A command that is bound by its name: "{Binding SaveSheet}"."""
_BY_NUMBER: Final = {"1": "Ctrl", "2": "Shift", "3": "Alt", "4": "Super"}
_NUMBERED: Final = re.compile(r"\bM([1-4])\+")
"""Modifiers by number, as they differ from one system to the other: "M1+S"."""
MOST_ARGUMENTS: Final = 3
LONGEST_ARGUMENT: Final = 60
NAMES: Final = (
    "label", "title", "text", "description", "command", "action", "commandid", "gaction", "setting", "slot", "value", "name",
    "id", "to",
)  # fmt: skip
_NOT_STRINGS: Final = frozenset({"bool", "boolean", "empty", "int", "double", "uint"})


def add_accelerators(root: Element, found: Found) -> None:
    """Elements with keys in an attribute, by its name or by the look of what stands in it, and objects with such properties."""
    keyed = _keyed_attributes(root)
    with_keys, without = set[tuple[str, str]](), list[tuple[str, str, str, str | None, int]]()
    group: str | None = None
    for element in root.iter():
        name = name_of(element)
        if not name:
            continue
        properties = {child.get("name"): " ".join("".join(child.itertext()).split()) for child in element
                      if name_of(child) == "property" and child.get("name") and not child.get("value")}  # fmt: skip
        attributes = {_local(str(attribute)): str(value) for attribute, value in {**dict(element.attrib), **properties}.items()}
        _name_coded_key(attributes)
        if attributes.get("type") in _NOT_STRINGS:
            group = attributes.get("name") or group or "" if attributes.get("type") == "empty" else group
            continue
        attribute = _key_attribute(attributes, keyed.get(name)) or next(
            (one for one in _ATTRIBUTES if attributes.get(one) == ""), None)
        command = _command_of(element, attributes, attribute, bool(properties)) if attribute is not None else None
        if attribute is None or command is None:
            continue
        if attribute in ("accel", "accelerator"):
            command = command.replace("_", "")
        command = _BOUND.sub(r"\1", without_mnemonic(command))
        if attributes[attribute]:
            with_keys.add((name, attribute))
            found.add(command, _keys_named(attributes, attribute), group, element.sourceline or 0)
        else:
            without.append((name, attribute, command, group, element.sourceline or 0))
    for name, attribute, command, group, line in without:
        if (name, attribute) in with_keys:
            found.add(command, "", group, line)


def _local(name: str) -> str:
    """Return the name of an attribute in small letters, without the namespace before it."""
    return name.rpartition("}")[2].lower()


def _name_coded_key(attributes: dict[str, str]) -> None:
    """Put the name of a key in place of its number where modifiers are switched beside it."""
    key = attributes.get("key", "")
    if key.isdigit() and sum(attributes.get(one, "").lower() in _SWITCHES for one in _MODIFIERS) > 1:
        attributes["key"] = key_of_virtual_code(int(key[:4])) or ""


def _key_attribute(attributes: Mapping[str, str], own: str | None) -> str | None:
    """Return the attribute that has the keys: the one that the file uses for it, or one that is called so."""
    if own is not None and own in attributes:
        return own
    attribute = next((one for one in _ATTRIBUTES if attributes.get(one)), None)
    switched = any(attributes.get(one, "").lower() in _SWITCHES for one in _MODIFIERS)
    named = attribute != "key" or evidence(attributes.get("key", "")) or (switched and len(attributes.get("key", "")) == 1)
    return attribute if attribute is not None and named else None


def _command_of(element: Element, attributes: Mapping[str, str], attribute: str, has_properties: bool) -> str | None:
    beside = own_text(element) or _beside(element)
    if attribute == "key" and len(attributes) < 2 and not has_properties:
        return beside or None
    switches = [one for one in _MODIFIERS if attributes.get(one, "").lower() in _SWITCHES]
    if attribute == "code" and attributes.get("href"):
        return attributes["href"]
    return next((attributes[one] for one in NAMES if one not in (attribute, *switches) and attributes.get(one)), None) or beside


def _keys_named(attributes: Mapping[str, str], attribute: str) -> str:
    """Return the keys with the second stroke and the modifiers that other attributes give."""
    keys = attributes[attribute]
    if attribute in ("accel", "accelerator") and _ACCELERATORS.fullmatch(keys):
        keys = " or ".join(_ALONE.sub(_marked, accelerator) for accelerator in keys.split())
    if attributes.get(_SECOND):
        keys = f"{keys} then {attributes[_SECOND]}"
    mask = re.sub(r"\s", "", attributes.get("mask", ""))
    if mask and set(mask) <= _MASKS.keys():
        keys = "+".join([*(_MASKS[letter] for letter in mask), keys])
    switches = [_OFFICE.get(name, name) for name in _MODIFIERS if attributes.get(name, "").lower() in _SWITCHED_ON]
    if switches:
        key = keys.lower() if len(keys) == 1 else keys  # the capital is Shift, which is named
        keys = "+".join([*switches, key])
    if attributes.get("modifiers"):
        held = re.sub(r"\bGDK_(\w+)_MASK\b", r"\1", attributes["modifiers"])
        keys = f"{re.sub(r'[ ,|]+', '+', held)}+{keys}"
    return _NUMBERED.sub(lambda match: f"{_BY_NUMBER[match[1]]}+", keys)


def _marked(name: re.Match[str]) -> str:
    """Return the name of a key in brackets: in an accelerator it can be nothing else."""
    return f"<{name[0]}>" if key_named(name[0]) is None and key_named(name[0], marked=True) is not None else name[0]


def _beside(element: Element) -> str | None:
    """Return what an element's keys are for, where its parent or its child says so."""
    child = next((one for one in element if isinstance(one.tag, str)), None)
    parent = element.getparent()
    for sibling in parent if parent is not None else ():
        if name_of(sibling) == "property" and sibling.get("name") in ("label", "text", "title") and own_text(sibling):
            return (own_text(sibling) or "").replace("_", "")
    for other in (child, element.getparent()):
        if other is not None:
            found = next((str(other.get(name)) for name in NAMES if other.get(name)), None)
            if found is not None:
                return " ".join([found, *_arguments(other)]) if other is child else found
    return None


def _arguments(action: Element) -> list[str]:
    """Return what an action is done with, where its own elements say so: <to>left</to> tells it from the one to the right."""
    texts = (own for one in action if (own := own_text(one)) is not None and own.lower() not in _SWITCHES)
    return [text for text in islice(texts, MOST_ARGUMENTS) if len(text) <= LONGEST_ARGUMENT]


def _keyed_attributes(root: Element) -> dict[str, str]:
    """By element: the attribute in which most values look like keys, where none has a name that says so."""
    values: dict[tuple[str, str], list[str]] = {}
    for element in root.iter():
        name = name_of(element)
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
    return {name: _local(attribute) for name, (_, attribute) in found.items()}
