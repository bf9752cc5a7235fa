"""Text of SVG as outlines, where its typeface is among those that ship."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from xml.etree.ElementTree import Element

from fontTools.pens.transformPen import TransformPen
from fontTools.ttLib import TTFont

from nebrel.core.outline_files.svg.document import local
from nebrel.core.outline_files.svg.lengths import Measures, length, lengths
from nebrel.core.outline_files.svg.shapes import Chain, ChainPen
from nebrel.core.outline_files.svg.style import Style, handed_on
from nebrel.core.region.typefaces import folder_of

BOLD_FROM = 600
# By family: the package, and its files for ordinary and for bold weight.
FAMILIES = {
    "manrope": ("font_manrope", "Manrope-Medium.ttf", "Manrope-ExtraBold.ttf"),
    "fredoka one": ("font_fredoka_one", "FredokaOne-Regular.ttf", "FredokaOne-Regular.ttf"),
    "source sans pro": ("font_source_sans_pro", "SourceSansPro-Regular.ttf", "SourceSansPro-Bold.ttf"),
}
ANCHORS = {"start": 0.0, "middle": 0.5, "end": 1.0}


@dataclass(frozen=True)
class Lettered:
    """Letters that are drawn alike."""

    chains: list[Chain]
    style: Style


def lettered(
    element: Element, style: Style, measures: Measures, own_style: Callable[[Element], Style]
) -> list[Lettered] | str:
    """Letters of a text element in px, or why there are none, in a sentence.

    Runs of one style stand one after the other; positions for single letters, paths and other scripts are not followed.
    """
    runs = _runs(element, style, own_style)
    if not runs:
        return []
    fonts = [_font_of(each.style) for each in runs]
    if any(font is None for font in fonts):
        family = next(each.style.get("font-family", "") for each, font in zip(runs, fonts, strict=True) if font is None)
        known = ", ".join(name.title() for name in FAMILIES)
        said = f"in “{family}” " if family else ""
        return f"Text {said}was left out; turn it into outlines where it comes from, or set it in {known}."
    made: list[Lettered] = []
    line: list[tuple[_Run, TTFont]] = []
    for run, font in zip(runs, fonts, strict=True):
        assert font is not None
        if line and run.starts:
            made += _line(line, measures)
            line = []
        line.append((run, font))
    return made + _line(line, measures)


@dataclass(frozen=True)
class _Run:
    text: str
    style: Style
    element: Element
    starts: bool


def _runs(element: Element, style: Style, own_style: Callable[[Element], Style]) -> list[_Run]:
    """Pieces of text with their styles; those that name a place begin a line."""
    found: list[_Run] = []

    def add(text: str | None, style: Style, of: Element, starts: bool) -> bool:
        plain = " ".join((text or "").split())
        if not plain:
            return False
        lead = " " if found and not starts and (text or "")[:1].isspace() else ""
        tail = " " if (text or "")[-1:].isspace() else ""
        found.append(_Run(lead + plain + tail, style, of, starts))
        return True

    waiting = not add(element.text, style, element, True)
    for child in element:
        if local(child) in ("tspan", "a"):
            inner = handed_on(style, own_style(child))
            starts = waiting or child.get("x") is not None or child.get("y") is not None
            inner_waiting = not add("".join(child.itertext()), inner, child, starts)
            waiting = waiting and inner_waiting
        waiting = waiting and not add(child.tail, style, element, waiting)
    return found


def _line(line: list[tuple[_Run, TTFont]], measures: Measures) -> list[Lettered]:
    if not line:
        return []
    first = line[0][0]
    source = first.element
    x = _place(source, "x", measures.width, measures)
    y = _place(source, "y", measures.height, measures)
    widths = [_advance(run, font, measures) for run, font in line]
    at = x - ANCHORS.get(first.style.get("text-anchor", "start"), 0.0) * sum(widths)
    made = []
    for (run, font), wide in zip(line, widths, strict=True):
        shift = _place(run.element, "dx", measures.width, measures)
        drop = _place(run.element, "dy", measures.height, measures)
        made.append(Lettered(_drawn(run, font, measures, at + shift, y + drop), run.style))
        at += wide + shift
    return made


def _place(element: Element, name: str, of: float, measures: Measures) -> float:
    return next(iter(lengths(element.get(name), of, measures)), 0.0)


def _size(run: _Run, measures: Measures) -> float:
    return length(run.style.get("font-size"), measures.em, measures, measures.em)


def _advance(run: _Run, font: TTFont, measures: Measures) -> float:
    names, widths = font.getBestCmap(), font["hmtx"].metrics
    units = sum(widths[names[ord(letter)]][0] for letter in run.text if ord(letter) in names)
    spaced = length(run.style.get("letter-spacing"), measures.em, measures) * len(run.text)
    return float(units) * _size(run, measures) / float(font["head"].unitsPerEm) + spaced


def _drawn(run: _Run, font: TTFont, measures: Measures, x: float, y: float) -> list[Chain]:
    names, widths, glyphs = font.getBestCmap(), font["hmtx"].metrics, font.getGlyphSet()
    scale = _size(run, measures) / float(font["head"].unitsPerEm)
    spaced = length(run.style.get("letter-spacing"), measures.em, measures)
    pen = _GlyphPen(glyphs)
    for letter in run.text:
        name = names.get(ord(letter))
        if name is None:
            continue
        glyphs[name].draw(TransformPen(pen, (scale, 0, 0, -scale, x, y)))
        x += widths[name][0] * scale + spaced
    pen.endPath()
    return pen.chains


class _GlyphPen(ChainPen):
    """Takes glyphs apart that are made of others."""

    def __init__(self, glyphs: dict[str, object]) -> None:
        super().__init__()
        self._glyphs = glyphs

    def addComponent(self, glyphName: str, transformation: object) -> None:  # noqa: N802, N803
        self._glyphs[glyphName].draw(TransformPen(self, transformation))  # type: ignore[attr-defined]


def _font_of(style: Style) -> TTFont | None:
    weight = style.get("font-weight", "400")
    bold = weight in ("bold", "bolder") or (weight.isdigit() and int(weight) >= BOLD_FROM)
    for family in style.get("font-family", "").split(","):
        known = FAMILIES.get(family.strip().strip("\"'").lower())
        if known is not None:
            return _opened(known[0], known[2 if bold else 1])
    return None


@lru_cache(maxsize=8)
def _opened(package: str, file: str) -> TTFont:
    return TTFont(folder_of(package) / file)
