"""What files say of themselves, in the ways of the open standards."""

from vinyl.media.tags.model import Chapter, Tags
from vinyl.media.tags.reading import parse, read_tags
from vinyl.media.tags.writing import write_tags

__all__ = ["Chapter", "Tags", "parse", "read_tags", "write_tags"]
