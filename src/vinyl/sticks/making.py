"""How a file on a stick is made of one at home: as it is, converted, levelled, tagged, or along a route."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass

from vinyl.core.cues.routes import Stretch

AS_IT_IS = ""
# ReplayGain 2.0 tells how far a track is from this.
REFERENCE_LUFS = -18.0


@dataclass(frozen=True, slots=True)
class Making:
    """``form`` is one of ENCODINGS, or AS_IT_IS; ``gain_db`` what the sound is raised by, ``tag_gain_db``
    what a tag asks players to raise it by; ``played`` the stretches of a route, none for the whole track.
    """

    form: str = AS_IT_IS
    gain_db: float = 0.0
    tag_gain_db: float | None = None
    played: tuple[Stretch, ...] = ()

    @property
    def is_copy(self) -> bool:
        """Whether the file goes onto the stick bit for bit."""
        return self == Making()

    @property
    def words(self) -> str:
        """What tells it from other makings of the same file."""
        parts = [self.form]
        parts += [f"{self.gain_db:+.1f} dB"] if self.gain_db else []
        parts += [f"tag {self.tag_gain_db:+.1f} dB"] if self.tag_gain_db is not None else []
        parts += [f"route {self.route_mark}"] if self.played else []
        return " ".join(parts).strip()

    @property
    def route_mark(self) -> str:
        """What tells a route from others of its track."""
        told = json.dumps([(each.start_s, each.end_s) for each in self.played])
        return hashlib.blake2b(told.encode(), digest_size=6).hexdigest()
