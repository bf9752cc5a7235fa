"""How many elements a file comes to once every copy is drawn, counted without drawing any."""

from xml.etree.ElementTree import Element

from nebrel.core.errors import TooLargeError
from nebrel.core.outline_files.svg.document import href_of, local

MOST_COPIED = 200_000
_LINKS = ("clip-path", "mask", "marker-start", "marker-mid", "marker-end")


def refuse_endless_copies(root: Element, name: str) -> None:
    """Refuse files whose copies of copies come to far more than they hold.

    What copies itself is not judged here; it has a sentence of its own.

    Raises:
        TooLargeError: there are more than `MOST_COPIED` elements beyond those of the file itself.
    """
    held = list(root.iter())
    by_id = {element.get("id"): element for element in held if element.get("id")}
    counted: dict[Element, int | None] = {}
    waiting: list[Element] = [root]
    while waiting:
        element = waiting[-1]
        needed = [*element, *_copied(element, by_id)]
        if element not in counted:
            counted[element] = None
            waiting += [each for each in needed if each not in counted]
            continue
        waiting.pop()
        if counted[element] is None:
            counted[element] = 1 + sum(counted[each] or 0 for each in needed)
    if (counted[root] or 0) > len(held) + MOST_COPIED:
        raise TooLargeError(
            f"{name} comes to more than {MOST_COPIED:,} elements by copies of copies; fewer are accepted."
        )


def _copied(element: Element, by_id: dict[str | None, Element]) -> list[Element]:
    links = [href_of(element)] if local(element) == "use" else []
    links += [told[4:].rstrip(") ").strip("\"' ") for told in map(element.get, _LINKS) if told and told[:4] == "url("]
    return [by_id[link[1:]] for link in links if link[:1] == "#" and link[1:] in by_id]
