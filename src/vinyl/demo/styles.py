"""Drum patterns, bass lines and sounds of the demo's styles."""

from __future__ import annotations

from dataclasses import dataclass, field

Patterns = dict[str, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Style:
    """``drums`` holds bars of sixteenths per drum; ``bass`` (start, length, scale steps above the root) in beats."""

    genre: str
    drums: Patterns
    bass: tuple[tuple[float, float, int], ...]
    chords: tuple[tuple[float, float], ...]
    bass_sound: str = "saw"
    chord_sound: str = "stab"
    lead_sound: str = "pluck"
    late: frozenset[str] = field(default_factory=frozenset)
    beats_per_bar: int = 4
    chord_bars: int = 2
    voices: int = 3
    swing: float = 0.0
    live: bool = False
    ambient_s: float = 0.0
    ends_at_bpm: float | None = None
    echo: bool = False
    duck: float = 0.0


FOUR = ("X...X...X...X...",)
BACK = ("....X.......X...",)
OFF = ("..x...x...x...x.",)
SIXTEENTHS = ("x.x.x.x.x.x.x.x.",)
HOUSE: Patterns = {
    "kick": FOUR,
    "clap": BACK,
    "open": OFF,
    "shaker": ("x.xxx.xxx.xxx.xx",),
    "conga": ("......x..x....x.", "...x..x..x..x..."),
}
DISCO: Patterns = {"kick": FOUR, "snare": BACK, "hat": SIXTEENTHS, "open": OFF}
TECHNO: Patterns = {
    "kick": FOUR,
    "hat": OFF,
    "rim": ("...x..x....x..x.",),
    "clap": ("............x...", "....x.......x..."),
    "shaker": SIXTEENTHS,
}
HOUSE_BASS = ((0.5, 0.4, 0), (1.5, 0.4, 0), (2.25, 0.3, 4), (2.75, 0.4, 0), (3.5, 0.4, 0))

STYLES = {
    "house": Style(
        "House",
        HOUSE,
        HOUSE_BASS,
        ((0.0, 0.4), (1.5, 0.5), (2.75, 0.5)),
        late=frozenset({"conga", "clap"}),
        duck=0.6,
        voices=4,
    ),
    "disco": Style(
        "Disco",
        DISCO,
        tuple((s / 2, 0.4, 7 if s % 2 else 0) for s in range(8)),
        ((0.5, 0.3), (1.5, 0.3), (2.5, 0.3), (3.5, 0.3)),
        chord_sound="organ",
        lead_sound="brass",
        late=frozenset({"open"}),
        voices=4,
    ),
    "disco-live": Style(
        "Disco",
        DISCO,
        tuple((s / 2, 0.4, 7 if s % 2 else 0) for s in range(8)),
        ((0.0, 0.8), (2.5, 0.5)),
        chord_sound="keys",
        lead_sound="brass",
        late=frozenset({"open"}),
        live=True,
    ),
    "techno": Style(
        "Techno",
        TECHNO,
        ((0.25, 0.2, 0), (0.75, 0.2, 0), (1.75, 0.2, 0), (2.25, 0.2, 4), (3.25, 0.2, 0), (3.75, 0.2, 6)),
        ((0.75, 0.25), (2.5, 0.25)),
        bass_sound="sub",
        lead_sound="bell",
        late=frozenset({"rim", "clap"}),
        chord_bars=4,
        duck=0.5,
    ),
    "drum & bass": Style(
        "Drum & Bass",
        {
            "kick": ("X.........X.....",),
            "snare": ("....X.......X...", "....X..x.x..X..."),
            "hat": SIXTEENTHS,
            "shaker": ("x.xxx.xxx.xxx.xx",),
        },
        ((0.0, 1.4, 0), (2.5, 1.2, 0)),
        ((0.0, 3.5),),
        bass_sound="reese",
        chord_sound="strings",
        lead_sound="pluck",
        late=frozenset({"shaker"}),
    ),
    "dub": Style(
        "Dub",
        {
            "kick": ("X.......X.......",),
            "rim": ("........X.......", "....x...X......."),
            "hat": ("x.xxx.xxx.xxx.xx",),
            "snare": ("................", "..............x."),
        },
        ((0.0, 0.9, 0), (1.5, 0.4, 2), (2.0, 0.8, 4), (3.5, 0.4, 0)),
        ((1.0, 0.3), (3.0, 0.3)),
        bass_sound="sub",
        chord_sound="stab",
        lead_sound="flute",
        echo=True,
        swing=0.12,
    ),
    "dembow": Style(
        "Dembow",
        {
            "kick": ("X...X...X...X...",),
            "snare": ("...X..X....X..X.",),
            "hat": SIXTEENTHS,
            "conga": ("..............xx",),
        },
        ((0.0, 0.6, 0), (0.75, 0.5, 0), (1.5, 0.4, 4), (2.0, 0.6, 0), (2.75, 0.5, 0), (3.5, 0.4, 4)),
        ((0.0, 0.4), (1.5, 0.4), (3.0, 0.4)),
        bass_sound="sub",
        chord_sound="keys",
        lead_sound="brass",
        late=frozenset({"conga"}),
    ),
    "waltz": Style(
        "Waltz",
        {"kick": ("X...........",), "snare": ("....x...x...",), "hat": ("x.x.x.x.x.x.",)},
        ((0.0, 0.9, 0), (2.0, 0.6, 4)),
        ((1.0, 0.6), (2.0, 0.6)),
        chord_sound="organ",
        lead_sound="flute",
        beats_per_bar=3,
    ),
    "downtempo": Style(
        "Downtempo",
        {
            "kick": ("X.....x...X.....",),
            "snare": BACK,
            "hat": ("x.x.x.x.x.x.x.xx",),
            "shaker": ("..x...x...x...x.",),
        },
        ((0.0, 1.4, 0), (2.5, 1.0, 0)),
        ((0.0, 3.8),),
        bass_sound="sub",
        chord_sound="keys",
        lead_sound="bell",
        swing=0.1,
        ambient_s=30.0,
        voices=4,
    ),
    "transition": Style(
        "House",
        {"kick": FOUR, "clap": BACK, "open": OFF, "hat": SIXTEENTHS},
        HOUSE_BASS,
        ((0.0, 0.4), (1.5, 0.5), (2.75, 0.5)),
        late=frozenset({"open"}),
        ends_at_bpm=126.0,
        duck=0.5,
    ),
    "breaks": Style(
        "Breaks",
        {
            "kick": ("X.X.......X.....", "X.........X..x.."),
            "snare": ("....X..x.x..X...", "....X.......X..x"),
            "hat": SIXTEENTHS,
            "open": ("......x.......x.",),
        },
        ((0.0, 0.7, 0), (1.25, 0.4, 0), (2.5, 0.7, 4), (3.25, 0.4, 6)),
        ((0.0, 0.5), (2.5, 0.4)),
        lead_sound="pluck",
        late=frozenset({"open"}),
    ),
}
