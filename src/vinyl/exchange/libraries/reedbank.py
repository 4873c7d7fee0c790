"""Reedbank: one XML document of items, pegs and pulses, and shelves of lists (docs/formats/reedbank.md)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import IO, Any
from urllib.parse import quote, unquote
from xml.etree.ElementTree import Element
from xml.sax.saxutils import quoteattr

from vinyl.core.carrying.card import Card, Point, Step, checked
from vinyl.core.carrying.collection import Node
from vinyl.core.carrying.words import UNWRITABLE
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.mending import Mended, mended
from vinyl.exchange.libraries.model import Told
from vinyl.exchange.xml import BrokenXmlError, UnsafeXmlError, parts

EDITION = 2
SUFFIX = ".reedbank.xml"
HOST = "file://localhost"
# Reedbank's names of our fields; others are called the same.
NAMES = {"key": "tone", "stars": "worth", "plays": "heard", "colour": "tint", "label": "house"}
FIELDS = {there: here for here, there in NAMES.items()}
MOST_DEPTH = 60


def write_reedbank(path: Path, cards: Iterable[tuple[str, Card]], lists: Sequence[Node]) -> None:
    """Write a document whole; keys become the numbers of its items.

    Raises:
        OSError: if the disk does not do it.
    """
    numbers: dict[str, int] = {}
    with path.open("w", encoding="utf-8", newline="\n") as out:
        out.write(f'<?xml version="1.0" encoding="UTF-8"?>\n<reedbank edition="{EDITION}">\n<holdings>\n')
        for number, (key, card) in enumerate(cards, 1):
            numbers[key] = number
            out.write(item_text(number, card))
        out.write("</holdings>\n<shelves>\n")
        for node in lists:
            _write_node(out, node, numbers)
        out.write("</shelves>\n</reedbank>\n")


def item_text(number: int, card: Card) -> str:
    """A card as an item of the document."""
    parts = [f"<item no={quoteattr(str(number))} file={_attr(url_of(card.path))}>"]
    parts += [
        f" <says of={_attr(NAMES.get(name, name))} is={_attr(text)}/>"
        for name, text in sorted(card.words.items())
    ]
    if card.steps:
        parts.append(f' <pulse bar="{card.beats_per_bar}" settled="{"yes" if card.settled else "no"}">')
        parts += [
            f'  <from ms="{_ms(step.at)}" beat="{step.beat!r}" rate="{step.bpm!r}"/>' for step in card.steps
        ]
        parts.append(" </pulse>")
    for each in card.points:
        end = f' end="{int(each.at + each.length)}"' if each.length is not None else ""
        tint = f" tint={_attr(each.colour)}" if each.colour else ""
        parts.append(f' <peg no="{each.place}" ms="{int(each.at)}"{end} name={_attr(each.name)}{tint}/>')
    return "\n".join([*parts, "</item>\n"])


def _ms(at_us: float) -> str:
    whole, rest = divmod(abs(int(at_us)), 1000)
    return f"{'-' if at_us < 0 else ''}{whole}.{rest:03}"


def _write_node(out: IO[str], node: Node, numbers: dict[str, int]) -> None:
    if node.kind == "folder":
        out.write(f"<folder name={_attr(node.name)}>\n")
        for each in node.inner:
            _write_node(out, each, numbers)
        out.write("</folder>\n")
        return
    out.write(f"<list name={_attr(node.name)}>\n")
    for key in node.tracks:
        if key in numbers:
            out.write(f' <in item="{numbers[key]}"/>\n')
    out.write("</list>\n")


def _attr(text: str) -> str:
    return quoteattr(UNWRITABLE.sub("", text))


def url_of(path: str) -> str:
    """A path as a file URL: with its drive, its server, or from the root."""
    if path.startswith("//"):
        return "file:" + quote(path, safe="/")
    return f"{HOST}/" + quote(path.removeprefix("/"), safe="/:")


def path_of(url: str) -> str:
    """The path of a file URL.

    Raises:
        ValueError: if it is none.
    """
    scheme, _, rest = url.partition("://")
    host, _, path = rest.partition("/")
    if scheme.casefold() != "file" or not path:
        raise ValueError(f"“{url[:80]}” is no file’s address")
    path = unquote(path)
    if host not in ("", "localhost"):
        return f"//{host}/{path}"
    return path if path[1:2] == ":" else f"/{path}"


class ReedbankReader:
    """A document that is read as it goes: items first, then its shelves. What breaks off is told."""

    def __init__(self, path: Path) -> None:
        self.told = Told()
        self._path = path
        self._stack: list[tuple[str, str, list[Any]]] = []
        self._lists: list[Node] = []
        self._items = 0

    def cards(self) -> Iterator[tuple[str, Card]]:
        """All items that are whole.

        Raises:
            LibraryFormatError: if it is no such document, or one that is not to be trusted.
        """
        try:
            with self._path.open("rb") as file:
                text = mended(file)
                yield from self._walk(text)
                if isinstance(text, Mended) and text.mended:
                    self.told.problems.append(
                        f"{text.mended} signs were not in the encoding that the document says; they were "
                        "read as Western European."
                    )
        except UnsafeXmlError as error:
            raise LibraryFormatError(
                f"{self._path.name} defines XML entities or points to other files, which a Reedbank document "
                "has no need of. It was not read."
            ) from error
        except BrokenXmlError as error:
            if not self._items:
                raise LibraryFormatError(f"{self._path.name} is no well-formed XML ({error}).") from error
            self.told.problems.append(
                f"The document breaks off or is damaged after item {self._items} ({error}); what stands "
                "before was read."
            )
        except OSError as error:
            raise LibraryFormatError(f"{self._path.name} cannot be read: {error.strerror}.") from error
        self.told.lists = tuple(self._lists)

    def _walk(self, file: Any) -> Iterator[tuple[str, Card]]:
        root: Element | None = None
        for event, element in parts(file, "item"):
            if root is None:
                root = element
                self._check_root(root)
            if event == "start":
                self._enter(element)
            elif element.tag == "item":
                self._items += 1
                if (card := self._card(element)) is not None:
                    yield element.get("no", ""), card
            else:
                self._leave(element)

    def _check_root(self, root: Element) -> None:
        if root.tag != "reedbank":
            raise LibraryFormatError(f"{self._path.name} is XML, but no Reedbank document.")
        edition = root.get("edition", "")
        if not edition.isdecimal() or int(edition) > EDITION:
            raise LibraryFormatError(
                f"{self._path.name} is of edition {edition or '?'}; Vinyl reads Reedbank up to {EDITION}."
            )

    def _card(self, item: Element) -> Card | None:
        try:
            return checked(card_of_item(item))
        except (ValueError, TypeError, OverflowError) as error:
            self.told.problems.append(f"Item {item.get('no', '?')} was passed over: {error}.")
            return None

    def _enter(self, element: Element) -> None:
        if element.tag in ("folder", "list"):
            if len(self._stack) > MOST_DEPTH:
                raise LibraryFormatError(f"Folders stand within one another more than {MOST_DEPTH} times.")
            self._stack.append((element.tag, element.get("name", ""), []))

    def _leave(self, element: Element) -> None:
        if element.tag == "in" and self._stack:
            self._stack[-1][2].append(element.get("item", ""))
        if element.tag not in ("folder", "list") or not self._stack:
            return
        tag, name, held = self._stack.pop()
        node = Node(name, "folder", inner=tuple(held)) if tag == "folder" else Node(name, "list", tuple(held))
        (self._stack[-1][2] if self._stack else self._lists).append(node)


def card_of_item(item: Element) -> Card:
    """An item as a card.

    Raises:
        ValueError: if a number in it is none, or it has no file.
    """
    words = {
        FIELDS.get(each.get("of", ""), each.get("of", "")): each.get("is", "") for each in item.iter("says")
    }
    pulse = item.find("pulse")
    steps: tuple[Step, ...] = ()
    bar, settled = 4, False
    if pulse is not None:
        bar, settled = int(pulse.get("bar", "4")), pulse.get("settled") == "yes"
        steps = tuple(_step(each) for each in pulse.iter("from"))
    return Card(
        path_of(item.get("file", "")), words, steps, bar, settled, tuple(_peg(e) for e in item.iter("peg"))
    )


def _step(element: Element) -> Step:
    at = round(1000 * float(element.get("ms", "")))
    return Step(at, float(element.get("beat", "0")), float(element.get("rate", "")))


def _peg(element: Element) -> Point:
    at, end = int(element.get("ms", "")), element.get("end")
    return Point(
        "peg",
        int(element.get("no", "")),
        at,
        None if end is None else int(end) - at,
        element.get("name", ""),
        element.get("tint", ""),
    )
