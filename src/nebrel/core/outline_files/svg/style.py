"""How elements of an SVG file look: attributes, style sheets and inline styles, and what is handed down."""

from functools import lru_cache
from xml.etree.ElementTree import Element

import cssselect2
import svgelements
import tinycss2

from nebrel.core.outline_files.svg.document import local
from nebrel.core.outline_files.svg.lengths import Measures, length, lengths
from nebrel.core.region.strokes import Stroke

HANDED_DOWN = frozenset(
    (
        "fill", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "stroke-dasharray",
        "stroke-dashoffset", "fill-opacity", "stroke-opacity", "fill-rule", "clip-rule", "visibility", "color",
        "font-family", "font-size", "font-weight", "font-style", "text-anchor", "marker-start", "marker-mid",
        "marker-end", "letter-spacing", "paint-order",
    )
)  # fmt: skip
OWN = frozenset(
    ("opacity", "display", "clip-path", "mask", "vector-effect", "transform", "stop-color", "stop-opacity", "overflow",
     "filter", "d", "x", "y", "width", "height", "r", "rx", "ry", "cx", "cy", "mask-type")
)  # fmt: skip
Style = dict[str, str]
NO_STYLE: Style = {}


class StyleSheet:
    """What all `style` elements of a file say, by element."""

    def __init__(self, root: Element) -> None:
        texts = ["".join(each.itertext()) for each in root.iter() if local(each) == "style"]
        self._found: dict[int, Style] = {}
        if any(text.strip() for text in texts):
            self._match(root, texts)

    def of(self, element: Element) -> Style:
        """Declarations for an element, the strongest last."""
        return self._found.get(id(element), NO_STYLE)

    def _match(self, root: Element, texts: list[str]) -> None:
        matcher = cssselect2.Matcher()
        for text in texts:
            for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
                if rule.type != "qualified-rule":
                    continue
                declared = _declarations(tinycss2.serialize(rule.content))
                try:
                    for selector in cssselect2.compile_selector_list(rule.prelude):
                        matcher.add_selector(selector, declared)
                except cssselect2.SelectorError:
                    continue
        for wrapper in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
            style: Style = {}
            # Matches come by specificity, then by order.
            for *_, declared in sorted(matcher.match(wrapper), key=lambda match: match[:2]):
                style |= declared
            if style:
                self._found[id(wrapper.etree_element)] = style


def own_style(element: Element, sheet: StyleSheet) -> Style:
    """What an element says of itself: attributes, then style sheets, then its inline style."""
    style = {key: value.strip() for key, value in element.attrib.items() if key in HANDED_DOWN or key in OWN}
    style |= sheet.of(element)
    inline = element.get("style")
    return style | _declarations(inline) if inline else style


def handed_on(before: Style, own: Style) -> Style:
    """The style of an element within one of style `before`: what is handed down, and its own."""
    style = {key: value for key, value in before.items() if key in HANDED_DOWN}
    for key, value in own.items():
        if value != "inherit":
            style[key] = value
        elif key in before:
            style[key] = before[key]
    return style


def _declarations(text: str) -> Style:
    found = tinycss2.parse_declaration_list(text, skip_comments=True, skip_whitespace=True)
    return {
        each.lower_name: tinycss2.serialize(each.value).strip()
        for each in sorted((each for each in found if each.type == "declaration"), key=lambda each: each.important)
    }


def colour_of(text: str, style: Style) -> tuple[str, float] | None:
    """A paint's colour as #rrggbb and how opaque it is; None for none, and for what is no colour."""
    text = text.strip()
    if text.lower() == "currentcolor":
        text = style.get("color", "black")
    return _named(text)


@lru_cache(maxsize=1024)
def _named(text: str) -> tuple[str, float] | None:
    if not text or text.lower() in ("none", "transparent"):
        return None
    try:
        found = svgelements.Color(text)
    except (ValueError, TypeError, IndexError):
        return None
    if found.value is None:
        return None
    return f"#{found.red:02x}{found.green:02x}{found.blue:02x}", float(found.opacity)


@lru_cache(maxsize=1024)
def opacity_of(text: str | None) -> float:
    """A share from 0 to 1; 1 for what is missing or is none."""
    try:
        value = float((text or "1").rstrip("%")) / (100 if (text or "").endswith("%") else 1)
    except ValueError:
        return 1.0
    return min(max(value, 0.0), 1.0)


def stroke_of(style: Style, measures: Measures) -> Stroke:
    """The stroke that a style asks for, in px."""
    dashes = lengths(style.get("stroke-dasharray", "").replace("none", ""), measures.diagonal, measures)
    if any(dash < 0 for dash in dashes) or sum(dashes) <= 0:
        dashes = []
    try:
        limit = float(style.get("stroke-miterlimit", "4"))
    except ValueError:
        limit = 4.0
    return Stroke(
        length(style.get("stroke-width", "1"), measures.diagonal, measures, 1.0),
        style.get("stroke-linecap", "butt"),
        style.get("stroke-linejoin", "miter"),
        limit,
        tuple(dashes * 2 if len(dashes) % 2 else dashes),
        length(style.get("stroke-dashoffset"), measures.diagonal, measures),
    )
