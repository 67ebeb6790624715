"""SVG from anywhere: parsed within limits, without entities, and refused where it reaches outside itself."""

from __future__ import annotations

import re
from typing import Final

from glimber.readers.element import Element

MOST_BYTES: Final = 4_000_000
MOST_ELEMENTS: Final = 20_000
MOST_TRANSFORM: Final = 2_000
"""Characters of one transform: a drawing's own have some dozens."""
_ACTIVE: Final = frozenset({"script", "foreignobject", "iframe", "animate", "set", "animatetransform", "animatemotion"})
_OUTSIDE: Final = re.compile(r"url\(\s*['\"]?(?!#|data:image/(?:png|jpeg))|@import", re.I)
_DATA: Final = ("data:image/png", "data:image/jpeg", "data:image/jpg")


class SvgError(ValueError):
    """A drawing that is damaged, too large or not to be trusted; the message says why."""


def parse_svg(data: bytes) -> Element:
    """Return the root element of a drawing. Raises SvgError."""
    from lxml import etree

    if len(data) > MOST_BYTES:
        raise SvgError(f"larger than {MOST_BYTES // 1_000_000} MB")
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, recover=False)
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise SvgError(f"not an SVG drawing: {error}") from error
    if local(root).lower() != "svg":
        raise SvgError(f"not an SVG drawing: its outermost element is {local(root)[:40]}")
    for count, element in enumerate(root.iter(), start=1):
        if count > MOST_ELEMENTS:
            raise SvgError(f"more than {MOST_ELEMENTS} elements")
        for name in ("transform", "gradientTransform", "patternTransform"):
            if len(element.get(name, "") if isinstance(element.tag, str) else "") > MOST_TRANSFORM:
                raise SvgError(f"a transform of more than {MOST_TRANSFORM} characters")
    return root


def local(element: Element) -> str:
    """Return an element's name without its namespace; empty for comments and instructions."""
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def safe_svg(data: bytes) -> bytes:
    """Return a drawing that may be painted as it is. Raises SvgError for scripts, outside references, or shapes without end."""
    root = parse_svg(data)
    if root.getroottree().docinfo.internalDTD is not None:
        raise SvgError("it declares a document type of its own")
    for element in root.iter():
        tag = local(element).lower()
        if not tag:
            continue
        if tag in _ACTIVE:
            raise SvgError(f"it has a {tag} in it; expected shapes only")
        for name, value in element.attrib.items():
            _check_attribute(name.rpartition("}")[2].lower(), str(value))
        if tag == "style" and _OUTSIDE.search(element.text or ""):
            raise SvgError("its style reaches outside the file")
    _check_uses(root)
    return data


def _check_attribute(name: str, value: str) -> None:
    if name.startswith("on"):
        raise SvgError(f"it has a script in {name}; expected shapes only")
    if name in ("href", "src") and not value.startswith("#") and not value.lower().startswith(_DATA):
        raise SvgError("it refers to something outside the file")
    if _OUTSIDE.search(value):
        raise SvgError("it refers to something outside the file")


def _check_uses(root: Element) -> None:
    """Shapes that are used in shapes that are used: what all of it comes to must stay within the limit."""
    by_id = {element.get("id"): element for element in root.iter() if local(element) and element.get("id")}
    known: dict[Element, int] = {}

    def weight(element: Element, under: frozenset[Element]) -> int:
        if element in under:
            raise SvgError("a shape is used within itself")
        if element not in known:
            total, inside = 1, under | {element}
            if local(element) == "use":
                href = next((str(v) for k, v in element.attrib.items() if k.rpartition("}")[2] == "href"), "")
                target = by_id.get(href[1:])
                total += weight(target, inside) if target is not None else 0
            total += sum(weight(child, inside) for child in element if local(child))
            known[element] = total
        if known[element] > MOST_ELEMENTS:
            raise SvgError(f"its uses come to more than {MOST_ELEMENTS} shapes")
        return known[element]

    try:
        weight(root, frozenset())
    except RecursionError:
        raise SvgError("nested too deeply") from None
