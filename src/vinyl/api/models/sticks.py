"""Sticks, their plan, how packing and checking went, and what came home."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.logbook import NightTakenOut
from vinyl.api.models.shared import Id, Model, Words

FaultName = Literal["", "slow", "full", "torn out", "write error", "read-only", "bit rot"]
JobState = Literal["waiting", "running", "paused", "done", "cancelled", "failed"]


class StickIn(Model):
    """A stick to be made: a stand-in of a size, or a folder on a real drive."""

    name: Annotated[Words, Field(min_length=1, max_length=40)]
    capacity_mb: Annotated[int, Field(ge=1, le=1_000_000)] = 500
    folder: Annotated[str | None, Field(max_length=4000)] = None
    profile: str = "Quay One"
    spare_of: Id | None = None


class SettingOut(Model):
    name: str
    says: str
    answers: list[str]


class ProfileOut(Model):
    """A player and its limits."""

    name: str
    description: str
    places: int
    converts_to: list[str]
    settings: list[str]
    writes_back: bool


class PlayerOut(Model):
    """A player that a stick is packed for."""

    profile: str
    form: str
    settings_id: int | None


class PlayerIn(Model):
    profile: Annotated[str, Field(max_length=40)]
    form: Annotated[str, Field(max_length=10)] = ""
    settings_id: Id | None = None


class PlayersIn(Model):
    players: Annotated[list[PlayerIn], Field(min_length=1, max_length=10)]


class OptionsIn(Model):
    """How tracks go: ``routes`` for players that know them, ``route_files`` as files beside their tracks;
    ``level_lufs`` is the loudness that copies are brought to, null leaves them as they are.
    """

    routes: bool = True
    route_files: bool = False
    smaller: bool = False
    level_lufs: Annotated[float | None, Field(ge=-30, le=-5)] = None
    loudness_tags: bool = False


class DriveOut(Model):
    path: str
    name: str
    file_system: str
    capacity_bytes: int
    free_bytes: int


class SettingsIn(Model):
    """Answers for players' settings, under a name."""

    name: Annotated[Words, Field(min_length=1, max_length=40)]
    answers: Annotated[dict[str, str], Field(max_length=20)]


class SettingsOut(Model):
    id: int
    name: str
    answers: dict[str, str]


class FaultIn(Model):
    fault: FaultName
    after_mb: Annotated[float, Field(ge=0, le=1_000_000)] = 0


class CheckIn(Model):
    mend: bool = False


class PackResult(Model):
    """How a stick was packed last; ``failures`` counts the files that could not go."""

    job_id: int
    failures: int
    state: JobState
    error: str | None
    tracks: int | None
    written: int | None
    removed: int | None
    unchanged: bool
    finished_at: str | None


class CheckResult(Model):
    """How a check went last."""

    job_id: int
    state: JobState
    error: str | None
    files: int | None
    damaged: int | None
    mended: int | None
    finished_at: str | None


class StickOut(Model):
    id: int
    name: str
    folder: str
    kind: Literal["stand-in", "drive"]
    file_system: str
    players: list[PlayerOut]
    is_in: bool
    capacity_bytes: int
    used_bytes: int
    crate_ids: list[int]
    left_out: list[int]
    options: OptionsIn
    rate: float | None
    packed_at: str | None
    checked_at: str | None
    fault: FaultName
    came_home: int
    left_out_lines: list[str]
    same_as: list[str]
    last_run: PackResult | None
    last_check: CheckResult | None
    # Plays that were new when it was put in just now.
    plays_taken: int = 0
    nights: Annotated[list[NightTakenOut], Field(default_factory=list)]


class WhoseOut(Model):
    whose: Literal["nobody", "here", "another"]


class StickCrates(Model):
    crate_ids: Annotated[list[Id], Field(max_length=10_000)]


class LeftOutIn(Model):
    track_ids: Annotated[list[Id], Field(max_length=100_000)]
    left_out: bool


class PlannedFileOut(Model):
    """A file; ``changes`` says what of its track is new for a player, where the file stays."""

    track_id: int
    file: str
    title: str
    artist: str
    action: Literal["copy", "convert", "keep"]
    form: str
    changes: list[str]
    size_bytes: int


class ProblemOut(Model):
    kind: Literal["away", "changed", "too large", "grid", "in point", "loss", "route"]
    track_id: int
    title: str
    says: str
    player: str


class LeaveOutOut(Model):
    id: int
    title: str
    plays: int


class ProposalsOut(Model):
    """Ways to make it fit."""

    leave_out: list[LeaveOutOut]
    smaller_saves: int
    lists: list[str]


class PlanOut(Model):
    """What packing would do. ``seconds`` is how long it takes by the rate measured last."""

    files: list[PlannedFileOut]
    lists: list[str]
    tracks: int
    removed: list[str]
    damaged: list[str]
    problems: list[ProblemOut]
    proposals: ProposalsOut | None
    write_bytes: int
    removed_bytes: int
    free_bytes: int
    capacity_bytes: int
    missing_bytes: int
    seconds: float | None
    is_empty: bool


class CameHomeOut(Model):
    """A value that was changed on a player, and what is here."""

    key: str
    track_id: int | None
    subject: str
    what: str
    here: str
    there: str
    here_at: str | None
    there_at: str
    player: str
    both: bool
    hold: str
    choice: Literal["theirs", "ours"] | None


class ChoicesIn(Model):
    choices: Annotated[dict[str, Literal["theirs", "ours"]], Field(max_length=100_000)]


class TakenHomeOut(Model):
    taken: int
    failed: list[str]
