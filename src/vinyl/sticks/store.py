"""Which sticks Vinyl knows, for which players, and which crates each shall carry."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Literal

from vinyl.library.clock import now
from vinyl.library.errors import NotFoundError
from vinyl.sticks.errors import StickError
from vinyl.sticks.medium import Drive, Medium, StandIn
from vinyl.sticks.profiles import PROFILES, Profile, get_profile
from vinyl.sticks.settings import check_settings

MediumName = Literal["stand-in", "drive"]


@dataclass(frozen=True, slots=True)
class Player:
    """A player that a stick is packed for: what files are converted to that it cannot play, and a set of
    settings that goes along.
    """

    profile: Profile
    form: str
    settings_id: int | None = None
    settings: Mapping[str, str] | None = None


@dataclass(frozen=True, slots=True)
class Options:
    """How tracks go: ``routes`` for players that know them, ``route_files`` as files beside their tracks;
    ``smaller`` makes lossless files MP3, ``level_lufs`` is the loudness that copies are brought to, and
    ``loudness_tags`` has each file tell its own.
    """

    routes: bool = True
    route_files: bool = False
    smaller: bool = False
    level_lufs: float | None = None
    loudness_tags: bool = False


@dataclass(frozen=True, slots=True)
class Stick:
    """A stick as Vinyl knows it. ``rate`` is how many bytes a second were written and proved last."""

    id: int
    gid: str
    name: str
    kind: MediumName
    medium: Medium
    players: tuple[Player, ...]
    crate_ids: tuple[int, ...]
    left_out: frozenset[int]
    options: Options
    rate: float | None
    packed_at: str | None
    checked_at: str | None


@dataclass(frozen=True, slots=True)
class SettingsSet:
    """Answers for players' settings, under a name."""

    id: int
    name: str
    answers: Mapping[str, str]


def list_sticks(connection: sqlite3.Connection) -> list[Stick]:
    """All known sticks by name."""
    rows = connection.execute("SELECT * FROM stick ORDER BY name COLLATE NOCASE")
    return [_from_row(connection, row) for row in rows]


def get_stick(connection: sqlite3.Connection, stick_id: int) -> Stick:
    """One stick.

    Raises:
        NotFoundError: if Vinyl does not know it.
    """
    row = connection.execute("SELECT * FROM stick WHERE id = ?", (stick_id,)).fetchone()
    if row is None:
        raise NotFoundError("Vinyl does not know this stick (any more).")
    return _from_row(connection, row)


def add_stick(
    connection: sqlite3.Connection, name: str, folder: Path, profile: str, kind: MediumName = "stand-in"
) -> int:
    """Remember a stick; returns its id.

    Raises:
        StickError: if there is one of that name or in that folder.
    """
    profile = get_profile(profile).name
    try:
        cursor = connection.execute(
            "INSERT INTO stick (name, folder, profile, medium, gid) "
            "VALUES (?, ?, ?, ?, lower(hex(randomblob(16))))",
            (name, str(folder), profile, kind),
        )
    except sqlite3.IntegrityError as error:
        raise StickError(f"There is already a stick called “{name}”, or one in {folder}.") from error
    stick_id = int(cursor.lastrowid or 0)
    choose_players(connection, stick_id, {profile: ("", None)})
    return stick_id


def be_spare_of(connection: sqlite3.Connection, stick_id: int, other_id: int) -> None:
    """Have a stick carry what another carries, for the same players."""
    other = get_stick(connection, other_id)
    players = {each.profile.name: (each.form, each.settings_id) for each in other.players}
    choose_players(connection, stick_id, players)
    choose_crates(connection, stick_id, other.crate_ids)
    choose_options(connection, stick_id, other.options)
    leave_out(connection, stick_id, sorted(other.left_out), True)


def forget_stick(connection: sqlite3.Connection, stick_id: int) -> None:
    """Forget a stick; what is on it stays."""
    connection.execute("DELETE FROM stick WHERE id = ?", (stick_id,))


def choose_players(
    connection: sqlite3.Connection, stick_id: int, chosen: Mapping[str, tuple[str, int | None]]
) -> None:
    """Set which players a stick is packed for, in order: what each has files converted to (empty for its
    usual), and its set of settings.

    Raises:
        StickError: if there are none, or one cannot play what it would be given.
    """
    if not chosen:
        raise StickError("A stick is packed for at least one player.")
    profiles = [(get_profile(name), told) for name, told in chosen.items()]
    for profile, (form, _) in profiles:
        if form and form not in profile.converts_to:
            raise StickError(f"{profile.name} is not given {form} files: {', '.join(profile.converts_to)}.")
    get_stick(connection, stick_id)
    connection.execute("DELETE FROM stick_player WHERE stick_id = ?", (stick_id,))
    rows = [(stick_id, profile.name, at, *told) for at, (profile, told) in enumerate(profiles)]
    try:
        connection.executemany(
            "INSERT INTO stick_player (stick_id, profile, position, form, settings_id) "
            "VALUES (?, ?, ?, ?, ?)",
            rows,
        )
    except sqlite3.IntegrityError as error:
        raise NotFoundError("These settings are no longer there.") from error
    names = json.dumps(list(chosen))
    connection.execute(
        "DELETE FROM stick_packed WHERE stick_id = ? AND profile NOT IN (SELECT value FROM json_each(?))",
        (stick_id, names),
    )


def choose_options(connection: sqlite3.Connection, stick_id: int, options: Options) -> None:
    """Set how tracks go onto a stick."""
    connection.execute("UPDATE stick SET told = ? WHERE id = ?", (json.dumps(asdict(options)), stick_id))


def leave_out(
    connection: sqlite3.Connection, stick_id: int, track_ids: Sequence[int], left_out: bool
) -> None:
    """Have a stick go without tracks of its lists, or with them again."""
    get_stick(connection, stick_id)
    statement = (
        "INSERT OR IGNORE INTO stick_left_out (stick_id, track_id) "
        "SELECT ?1, id FROM track WHERE id IN (SELECT value FROM json_each(?2))"
        if left_out
        else "DELETE FROM stick_left_out WHERE stick_id = ?1 "
        "AND track_id IN (SELECT value FROM json_each(?2))"
    )
    connection.execute(statement, (stick_id, json.dumps(list(track_ids))))


def choose_crates(connection: sqlite3.Connection, stick_id: int, crate_ids: Sequence[int]) -> None:
    """Set which crates the stick shall carry."""
    get_stick(connection, stick_id)
    wanted = json.dumps(list(crate_ids))
    connection.execute(
        "DELETE FROM stick_crate WHERE stick_id = ? AND crate_id NOT IN (SELECT value FROM json_each(?))",
        (stick_id, wanted),
    )
    try:
        connection.execute(
            "INSERT OR IGNORE INTO stick_crate (stick_id, crate_id) SELECT ?, value FROM json_each(?) "
            "WHERE value NOT IN (SELECT id FROM crate WHERE is_folder)",
            (stick_id, wanted),
        )
    except sqlite3.IntegrityError as error:
        raise NotFoundError("One of these crates is no longer there.") from error


def note_packed(connection: sqlite3.Connection, stick_id: int, rate: float | None) -> None:
    """Note that a stick was packed just now, and how fast it took what was written."""
    connection.execute(
        "UPDATE stick SET packed_at = ?, rate = coalesce(?, rate) WHERE id = ?", (now(), rate, stick_id)
    )


def keep_packed(
    connection: sqlite3.Connection, stick_id: int, rows: Iterable[tuple[str, str, str, str]]
) -> None:
    """Keep what was packed (profile, kind, global id, JSON), to tell later changes from."""
    connection.execute("DELETE FROM stick_packed WHERE stick_id = ?", (stick_id,))
    connection.executemany(
        "INSERT OR REPLACE INTO stick_packed (stick_id, profile, kind, gid, told) VALUES (?, ?, ?, ?, ?)",
        [(stick_id, *row) for row in rows],
    )


def note_checked(connection: sqlite3.Connection, stick_id: int) -> None:
    """Note that a stick was checked just now."""
    connection.execute("UPDATE stick SET checked_at = ? WHERE id = ?", (now(), stick_id))


def library_gid(connection: sqlite3.Connection) -> str:
    """The name that sticks know this library by."""
    return str(connection.execute("SELECT gid FROM this_library").fetchone()[0])


def list_settings(connection: sqlite3.Connection) -> list[SettingsSet]:
    """Sets of players' settings, by name."""
    rows = connection.execute("SELECT id, name, told FROM player_settings ORDER BY name COLLATE NOCASE")
    return [SettingsSet(row["id"], row["name"], json.loads(row["told"])) for row in rows]


def keep_settings(
    connection: sqlite3.Connection, name: str, answers: Mapping[str, str], settings_id: int | None = None
) -> int:
    """Keep a set of settings under a name, a new one or an old one; returns its id.

    Raises:
        StickError: if an answer does not exist, or another set has that name.
    """
    check_settings(answers)
    if settings_id is not None and settings_id not in {each.id for each in list_settings(connection)}:
        raise NotFoundError("These settings are no longer there.")
    try:
        cursor = connection.execute(
            "INSERT INTO player_settings (id, name, told) VALUES (?, ?, ?) "
            "ON CONFLICT (id) DO UPDATE SET name = excluded.name, told = excluded.told RETURNING id",
            (settings_id, name, json.dumps(dict(answers), ensure_ascii=False)),
        )
        return int(cursor.fetchone()[0])
    except sqlite3.IntegrityError as error:
        raise StickError(f"There is already a set of settings called “{name}”.") from error


def delete_settings(connection: sqlite3.Connection, settings_id: int) -> None:
    """Delete a set of settings; players that had it get their usual ones."""
    connection.execute("DELETE FROM player_settings WHERE id = ?", (settings_id,))


def _from_row(connection: sqlite3.Connection, row: sqlite3.Row) -> Stick:
    crates = connection.execute(
        "SELECT s.crate_id FROM stick_crate s JOIN crate c ON c.id = s.crate_id "
        "WHERE s.stick_id = ? ORDER BY c.position, c.id",
        (row["id"],),
    )
    players = connection.execute(
        "SELECT p.profile, p.form, p.settings_id, s.told FROM stick_player p "
        "LEFT JOIN player_settings s ON s.id = p.settings_id WHERE p.stick_id = ? ORDER BY p.position",
        (row["id"],),
    )
    left_out = connection.execute("SELECT track_id FROM stick_left_out WHERE stick_id = ?", (row["id"],))
    folder, told = Path(row["folder"]), json.loads(row["told"])
    return Stick(
        id=row["id"],
        gid=row["gid"],
        name=row["name"],
        kind=row["medium"],
        medium=StandIn(folder) if row["medium"] == "stand-in" else Drive(folder, row["gid"]),
        players=tuple(_player(each) for each in players if each["profile"] in PROFILES) or (_usual_player(),),
        crate_ids=tuple(crate[0] for crate in crates),
        left_out=frozenset(each[0] for each in left_out),
        options=Options(**told),
        rate=row["rate"],
        packed_at=row["packed_at"],
        checked_at=row["checked_at"],
    )


def _usual_player() -> Player:
    """For a stick whose players' documents are all gone."""
    profile = next(iter(PROFILES.values()))
    return Player(profile, profile.converts_to[0])


def _player(row: sqlite3.Row) -> Player:
    profile = get_profile(row["profile"])
    settings = json.loads(row["told"]) if row["told"] else None
    return Player(profile, row["form"] or profile.converts_to[0], row["settings_id"], settings)
