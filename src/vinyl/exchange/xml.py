"""The one reader of XML: no entities and nothing from elsewhere is followed, and of a long document no more
is held than the part in hand.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Literal
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring, iterparse

from vinyl.core.errors import VinylError

Event = Literal["start", "end"]
MOST_DEPTH = 500


class UnsafeXmlError(VinylError):
    """A document that defines entities, or points to other files."""


class BrokenXmlError(VinylError):
    """A document that is not well-formed, or of no encoding that is known."""


def parse(data: bytes) -> Element:
    """The root of a short document.

    Raises:
        UnsafeXmlError, BrokenXmlError: if it cannot be trusted or read.
    """
    try:
        root: Element = fromstring(data)
    except DefusedXmlException as error:
        raise UnsafeXmlError from error
    except (ParseError, ValueError, LookupError) as error:
        raise BrokenXmlError(str(error)) from error
    return root


def parts(file: Any, whole: str) -> Iterator[tuple[Event, Element]]:
    """Elements of a long document as they begin and end. Those of the tag ``whole`` are whole when they end;
    all others hold no children, and nothing is kept of what has ended.

    Args:
        file: what has ``read``, of bytes or of text.

    Raises:
        UnsafeXmlError, BrokenXmlError: when it is met.
    """
    opened: list[Element] = []
    within = 0
    try:
        for event, element in iterparse(file, events=("start", "end"), forbid_dtd=False):
            if event == "start":
                opened.append(element)
                within += element.tag == whole
                if len(opened) > MOST_DEPTH:
                    raise BrokenXmlError(
                        f"its elements stand within one another more than {MOST_DEPTH} times"
                    )
                if within == 0 or (within == 1 and element.tag == whole):
                    yield "start", element
                continue
            opened.pop()
            within -= element.tag == whole
            if within == 0:
                yield "end", element
                if opened:
                    opened[-1].remove(element)
    except DefusedXmlException as error:
        raise UnsafeXmlError from error
    except (ParseError, ValueError, LookupError) as error:
        raise BrokenXmlError(str(error)) from error
