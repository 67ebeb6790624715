"""A drawing as SVG: text stays text, in the shipped face, which the file carries with it."""

from __future__ import annotations

from collections.abc import Mapping
from xml.sax.saxutils import escape as escape_xml
from xml.sax.saxutils import quoteattr as quote_xml

from glimber.core.drawing.drawing import Circle, Drawing, Group, Image, Item, Path, Rect, Stroke, Text

Colours = Mapping[str, str]
_UNFIT = (*range(0x09), *range(0x0B, 0x20), *range(0x7F, 0xA0), *range(0xD800, 0xE000), 0xFFFE, 0xFFFF)
_NOT_XML = dict.fromkeys(_UNFIT, 0xFFFD)
"""Characters that no XML may hold, or no reader shows: each stands as the sign for an unknown one."""


def escape(text: str) -> str:
    """Return a text as it may stand in XML, whatever is in it."""
    return escape_xml(text.translate(_NOT_XML))


def quoteattr(text: str) -> str:
    """Return a text as it may stand as an attribute of XML, in its quotes."""
    return quote_xml(text.translate(_NOT_XML))


def to_svg(drawing: Drawing, colours: Colours, fonts: Mapping[int, str] | None = None) -> str:
    """Return the drawing as an SVG document in mm.

    ``colours`` maps names to ``#RRGGBB``; ``fonts`` maps weights to base64 font data to be carried in the file.
    """
    width, height = _number(drawing.width), _number(drawing.height)
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}" '
        f'role="img" aria-labelledby="title desc">\n<title id="title">{escape(drawing.title)}</title>\n'
        f'<desc id="desc">{escape(drawing.description)}</desc>\n'
    )
    rules = "".join(
        f'@font-face{{font-family:"Manrope";font-weight:{weight};src:url(data:font/ttf;base64,{data})}}\n'
        for weight, data in (fonts or {}).items()
    )
    style = f"<style>\n{rules}text{{font-family:Manrope,sans-serif}}\n</style>\n"
    return head + style + "".join(_group(group, colours) for group in drawing.groups) + "</svg>\n"


def _number(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".")


def _group(group: Group, colours: Colours) -> str:
    turn = ""
    if group.angle:
        x, y = group.pivot
        turn = f' transform="rotate({_number(group.angle)} {_number(x)} {_number(y)})"'
    key = f" data-key={quoteattr(group.key)}" if group.key else ""
    name = f"<title>{escape(group.name)}</title>" if group.name else ""
    return f"<g{key}{turn}>{name}\n" + "".join(_item(item, colours) for item in group.items) + "</g>\n"


def _paint(fill: str | None, stroke: Stroke | None, colours: Colours) -> str:
    out = f' fill="{colours[fill] if fill else "none"}"'
    if stroke:
        out += f' stroke="{colours[stroke.colour]}" stroke-width="{_number(stroke.width)}"'
        out += ' stroke-linecap="round" stroke-linejoin="round"'
    return out


def _item(item: Item, colours: Colours) -> str:
    if isinstance(item, Rect):
        place = f'x="{_number(item.x)}" y="{_number(item.y)}" width="{_number(item.w)}" height="{_number(item.h)}"'
        return f'<rect {place} rx="{_number(item.radius)}"{_paint(item.fill, item.stroke, colours)}/>\n'
    if isinstance(item, Circle):
        place = f'cx="{_number(item.x)}" cy="{_number(item.y)}" r="{_number(item.r)}"'
        return f"<circle {place}{_paint(item.fill, item.stroke, colours)}/>\n"
    if isinstance(item, Path):
        steps = " ".join(" ".join(p if isinstance(p, str) else _number(p) for p in step) for step in item.steps)
        return f'<path d="{steps}"{_paint(item.fill, item.stroke, colours)}/>\n'
    if isinstance(item, Image):
        place = f'x="{_number(item.x)}" y="{_number(item.y)}" width="{_number(item.w)}" height="{_number(item.h)}"'
        return f'<image {place} href="data:{item.picture.mime};base64,{item.picture.data}"/>\n'
    return _text(item, colours)


def _text(item: Text, colours: Colours) -> str:
    return (
        f'<text x="{_number(item.x)}" y="{_number(item.y)}" font-size="{_number(item.size)}" '
        f'font-weight="{item.weight}" text-anchor="{item.anchor}" fill="{colours[item.colour]}">'
        f"{escape(item.text)}</text>\n"
    )
