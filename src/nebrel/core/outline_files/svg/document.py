"""The tree of an SVG file: parsed within bounds, nothing outside of it touched."""

import re
from functools import lru_cache
from xml.etree.ElementTree import Element, TreeBuilder
from xml.parsers import expat

from nebrel.core.errors import BadDrawingError, TooLargeError

SVG = "{http://www.w3.org/2000/svg}"
XLINK_HREF = "{http://www.w3.org/1999/xlink}href"
MOST_ELEMENTS, DEEPEST = 500_000, 256
MOST_ENTITIES, LONGEST_ENTITY = 200, 2_000


def parse_tree(data: bytes, name: str) -> Element:
    """The root of an SVG file, in whatever encoding it says; names with their namespace in braces.

    Entities that stand for plain text are put in; links are never followed.

    Args:
        data: the file.
        name: what it is called.

    Raises:
        BadDrawingError: no SVG, damaged, or with entities that hold others or lie outside.
        TooLargeError: more elements, or deeper in each other, than are accepted.
    """
    builder = TreeBuilder()
    parser = expat.ParserCreate(namespace_separator="}")
    parser.buffer_text = True
    parser.ordered_attributes = False
    _Reading(parser, builder, name)
    try:
        parser.Parse(data, True)
        root = builder.close()
    except expat.ExpatError as cause:
        if "<svg" not in _head(data):
            raise BadDrawingError(f"{name} is not an SVG file; please check what it is.") from cause
        raise BadDrawingError(
            f"{name} cannot be read as SVG: it is damaged at line {cause.lineno}; please export it again."
        ) from cause
    if local(root) != "svg":
        raise BadDrawingError(f"{name} is not an SVG file; please check what it is.")
    return root


def local(element: Element) -> str:
    """The name of an element of SVG without its namespace; "" for those of other namespaces."""
    return _local(str(element.tag))


@lru_cache(maxsize=1024)
def _local(tag: str) -> str:
    if tag.startswith(SVG):
        return tag[len(SVG) :]
    return "" if "}" in tag else tag


def href_of(element: Element) -> str:
    """What an element links to."""
    return element.get("href") or element.get(XLINK_HREF) or ""


class _Reading:
    """Hands what expat finds to a tree builder, and counts."""

    def __init__(self, parser: expat.XMLParserType, builder: TreeBuilder, name: str) -> None:
        self._builder, self._name = builder, name
        self._count = self._depth = self._entities = 0
        parser.StartElementHandler = self._start
        parser.EndElementHandler = self._end
        parser.CharacterDataHandler = builder.data
        parser.EntityDeclHandler = self._entity
        parser.SetParamEntityParsing(expat.XML_PARAM_ENTITY_PARSING_NEVER)

    def _start(self, tag: str, attributes: dict[str, str]) -> None:
        self._count += 1
        self._depth += 1
        if self._count > MOST_ELEMENTS:
            raise TooLargeError(f"{self._name} has more than {MOST_ELEMENTS:,} elements, which is the most accepted.")
        if self._depth > DEEPEST:
            raise TooLargeError(f"{self._name} nests more than {DEEPEST} elements in each other; fewer are accepted.")
        self._builder.start(_braced(tag), {_braced(key): value for key, value in attributes.items()})

    def _end(self, tag: str) -> None:
        self._depth -= 1
        self._builder.end(_braced(tag))

    def _entity(self, name: str, is_parameter: int, value: str | None, *outside: object) -> None:
        self._entities += 1
        if value is None:
            raise BadDrawingError(f"{self._name} takes text from another file; only what is in it is read.")
        if is_parameter or "&" in value or len(value) > LONGEST_ENTITY or self._entities > MOST_ENTITIES:
            raise BadDrawingError(
                f"{self._name} declares XML entities that hold more than a short text; such files are not accepted."
            )


def _braced(name: str) -> str:
    return "{" + name if "}" in name else name


def _head(data: bytes) -> str:
    return re.sub(r"\x00", "", data[:65536].decode("latin-1")).lower()
