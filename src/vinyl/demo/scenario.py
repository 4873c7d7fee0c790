"""Who and what: the tracks of the resident DJ of the Slipway Bar in Tarnhaven, all made up."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Tags = Literal["full", "some", "none"]


@dataclass(frozen=True, slots=True)
class Song:
    """What is made for one track. ``bpm`` is the tempo at the start, ``key`` its truth ("A minor")."""

    title: str
    artist: str
    album: str
    year: int
    style: str
    bpm: float
    key: str
    form: str
    seed: int
    seconds: float = 165.0
    tags: Tags = "full"
    picture: bool = True
    rating: int = 0
    folder: str = "Downloads"
    lead_in_s: float = 0.0


HARBOUR = "Harbour Lights EP"
SONGS = (
    Song("Copper Tide", "Halden Pier", HARBOUR, 2024, "house", 124.02, "A minor", "mp3", 11, 186, rating=5),
    Song(
        "Lantern Weather",
        "Osk & Maren",
        "Lantern Weather",
        2025,
        "house",
        122,
        "A minor",
        "flac",
        12,
        180,
        rating=4,
    ),
    Song(
        "Warm Engine Room", "Ilva Dune", "Below Deck", 2023, "house", 118, "C minor", "m4a", 13, 180, rating=4
    ),
    Song(
        "Foghorn Romance",
        "Ilva Dune",
        "Below Deck",
        2023,
        "house",
        125,
        "E minor",
        "mp3",
        14,
        170,
        rating=5,
        lead_in_s=0.37,
    ),
    Song(
        "Nine Steps to the Water", "Brine Social", "Tidal Club", 2025, "house", 124, "C major", "wav", 15, 155
    ),
    Song("Paraffin", "Halden Pier", HARBOUR, 2024, "house", 123.5, "G minor", "aiff", 16, 155, rating=3),
    Song("Breakwater", "Brine Social", "Tidal Club", 2025, "house", 126, "F major", "opus", 17, 165),
    Song(
        "Harbour Clock",
        "Osk & Maren",
        "Lantern Weather",
        2025,
        "disco",
        119.5,
        "D minor",
        "flac",
        18,
        190,
        rating=4,
    ),
    Song(
        "Sea Glass Letters",
        "The Quay Five",
        "Sea Glass",
        2022,
        "disco-live",
        116,
        "G major",
        "mp3",
        19,
        240,
        rating=5,
    ),
    Song("Rope & Tar", "The Quay Five", "Sea Glass", 2022, "disco-live", 112, "E minor", "flac", 20, 195),
    Song(
        "Ballroom on the Pier",
        "The Quay Five",
        "Sea Glass",
        2022,
        "disco",
        114,
        "Bb major",
        "m4a",
        21,
        165,
        rating=3,
    ),
    Song(
        "Salt Arithmetic",
        "Tern Logic",
        "Index of Birds",
        2025,
        "techno",
        128,
        "D minor",
        "m4a",
        22,
        170,
        rating=4,
    ),
    Song(
        "Pilot Light",
        "Tern Logic",
        "Index of Birds",
        2025,
        "techno",
        130,
        "F minor",
        "flac",
        23,
        175,
        rating=4,
        lead_in_s=0.8,
    ),
    Song(
        "Low Pressure",
        "Tern Logic",
        "",
        2026,
        "techno",
        132,
        "B minor",
        "wav",
        24,
        150,
        tags="some",
        picture=False,
    ),
    Song("Undertow Index", "Tern Logic", "Index of Birds", 2025, "techno", 134.5, "G minor", "opus", 25, 160),
    Song(
        "Glasswort", "Ilva Dune", "Marsh Maps", 2024, "drum & bass", 174, "A minor", "mp3", 26, 200, rating=3
    ),
    Song("Mudlark", "Ilva Dune", "Marsh Maps", 2024, "drum & bass", 172, "F# minor", "flac", 27, 190),
    Song("Samphire Run", "Kelp Union", "Samphire Run", 2026, "drum & bass", 173, "D major", "m4a", 28, 170),
    Song(
        "Slow Ferry (Dub)", "Brine Social", "Slow Ferry", 2021, "dub", 94, "A minor", "mp3", 29, 190, rating=4
    ),
    Song("Bilge Echo", "Skerry Sound", "Versions", 2020, "dub", 84, "E minor", "wav", 30, 185),
    Song(
        "Customs House Version",
        "Skerry Sound",
        "Versions",
        2020,
        "dub",
        88,
        "D minor",
        "flac",
        31,
        160,
        tags="some",
    ),
    Song("Café del Muelle", "Rosa Ostra", "Mareas", 2024, "dembow", 96, "C minor", "flac", 32, 165, rating=3),
    Song("Niña de Sal", "Rosa Ostra", "Mareas", 2024, "dembow", 100, "A minor", "m4a", 33, 160),
    Song("Крабовий Вальс", "Оркестр Дюна", "Хвилі", 2023, "waltz", 138, "G major", "flac", 34, 175),
    Song("灯台の朝", "潮見坂", "灯台", 2025, "downtempo", 90, "D major", "mp3", 35, 200, rating=5),
    Song("Ånd i Tåken", "Sølve Nord", "Tåke", 2022, "downtempo", 86, "E minor", "flac", 36, 190),
    Song("Ninth Buoy", "Brine Social", "Tidal Club", 2025, "transition", 100, "A minor", "mp3", 37, 210),
    Song(
        "Rigging",
        "Kelp Union",
        "Rigging",
        2026,
        "breaks",
        132,
        "E minor",
        "mp3",
        38,
        165,
        rating=3,
        folder="Downloads/November",
    ),
    Song(
        "Anchor Chain",
        "Kelp Union",
        "Rigging",
        2026,
        "breaks",
        136,
        "C minor",
        "aiff",
        39,
        155,
        folder="Downloads/November",
    ),
    Song(
        "Halyard",
        "Kelp Union",
        "Rigging",
        2026,
        "breaks",
        128.5,
        "G major",
        "opus",
        40,
        160,
        folder="Downloads/November",
    ),
    Song(
        "Ultramarine Hours",
        "Halden Pier",
        "Night Boat",
        2026,
        "house",
        120,
        "F minor",
        "flac",
        41,
        300,
        folder="Downloads/November",
    ),
    Song(
        "Last Boat Home",
        "Osk & Maren",
        "Night Boat",
        2026,
        "house",
        121,
        "Eb major",
        "wav",
        42,
        155,
        tags="none",
        picture=False,
        folder="Downloads/November",
    ),
    Song(
        "Gull Telemetry",
        "Tern Logic",
        "Night Boat",
        2026,
        "techno",
        127.3,
        "C# minor",
        "mp3",
        43,
        160,
        folder="Downloads/November",
    ),
)
