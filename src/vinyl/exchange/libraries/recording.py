"""Writing Tidewrack's records into files: in a worker, each file for itself."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from mutagen import MutagenError

from vinyl.core.errors import VinylError
from vinyl.exchange.libraries.tidewrack import TAG
from vinyl.media.files import AllowedRoots
from vinyl.media.rewriting import Written, rewrite_in_place
from vinyl.media.tags.free import read_free, write_free

log = logging.getLogger(__name__)
SUFFIX = ".tags"
GONE = "Its file is not there: plug in its drive, then write it again."


@dataclass(frozen=True, slots=True)
class Recorded:
    """A file after its record was written; ``written`` is None where it had that record already."""

    written: Written | None = None
    refused: str = ""


def write_records(files: Sequence[tuple[str, str, str]], kept: Path, roots: AllowedRoots) -> list[Recorded]:
    """Write records into files: of each a name to keep its old tags by, its path, and the record."""
    return [_write(name, path, record, kept, roots) for name, path, record in files]


def _write(name: str, path: str, record: str, kept: Path, roots: AllowedRoots) -> Recorded:
    try:
        file = roots.check(Path(path))
        if not file.is_file():
            return Recorded(refused=GONE)
        if read_free(file, TAG) == record:
            return Recorded()
        before = kept / f"{name}{SUFFIX}"
        return Recorded(rewrite_in_place(file, before, lambda part: write_free(part, TAG, record)))
    except VinylError as error:
        return Recorded(refused=str(error))
    except MutagenError as error:
        return Recorded(refused=f"Its tags cannot be read or written ({error}).")
    except OSError as error:
        return Recorded(refused=f"It cannot be written ({error.strerror or error}).")
    except Exception as error:  # tags hold anything, and a writer of damaged ones may raise anything
        log.exception("writing %s", path)
        return Recorded(refused=f"It cannot be written ({type(error).__name__}).")
