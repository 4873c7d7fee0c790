"""``./vinyl stick``: plan, pack, check and bring home, by the server that runs or without one."""

from __future__ import annotations

import json
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Literal

from vinyl.api.convert import job_out
from vinyl.api.models.sticks import PlanOut, StickOut, TakenHomeOut
from vinyl.api.planning import plan_out
from vinyl.api.sticks_out import came_home_out, stick_out, sticks_out
from vinyl.commands.client import ENDED, LOOK_S, Way, way_to
from vinyl.core.errors import VinylError
from vinyl.operations import sticks
from vinyl.operations.services import Services
from vinyl.sticks import store
from vinyl.sticks.home_again import Choice
from vinyl.sticks.medium import megabytes

Verb = Literal["list", "plan", "pack", "check", "pull-changes"]
OTHERWISE: Mapping[str, Literal["theirs", "ours"]] = {"player": "theirs", "here": "ours"}

Told = Mapping[str, Any]


def stick(home: Path, verb: Verb, names: Sequence[str], as_json: bool, mend: bool, both: str) -> int:
    """Do what is asked with sticks, and say what became of it. The exit code is 0 if all is well, 1 if not.

    Raises:
        VinylError: if there is no such stick, or it cannot be used.
    """
    with way_to(home) as way:
        known = way.ask("/api/sticks", sticks_out)
        if verb == "list":
            return _say(as_json, known, [_line(each) for each in known])
        chosen = [_named(known, name) for name in names] or [each for each in known if each["is_in"]]
        if not chosen:
            raise VinylError("No stick is in the computer.")
        if verb == "pack":
            return _pack(way, chosen, as_json)
        return max([_one(way, each, verb, as_json, mend, both) for each in chosen])


def _one(way: Way, chosen: Told, verb: Verb, as_json: bool, mend: bool, both: str) -> int:
    match verb:
        case "plan":
            return _plan(way, chosen, as_json)
        case "check":
            return _check(way, chosen, as_json, mend)
        case _:
            return _pull_changes(way, chosen, as_json, both)


def _named(known: Sequence[Told], name: str) -> Told:
    found = next((each for each in known if each["name"].casefold() == name.casefold()), None)
    if found is None:
        raise VinylError(f"There is no stick called “{name}”. There are: {_names(known)}.")
    return found


def _names(known: Sequence[Told]) -> str:
    return ", ".join(each["name"] for each in known) or "none"


def _line(told: Told) -> str:
    players = " and ".join(each["profile"] for each in told["players"])
    where = f"{megabytes(told['capacity_bytes'] - told['used_bytes'])} free" if told["is_in"] else "not here"
    return f"{told['name']}: for {players}, {where}, packed {told['packed_at'] or 'never'}"


def _plan(way: Way, chosen: Told, as_json: bool) -> int:
    plan = way.ask(f"{_at(chosen)}/plan", lambda use: _planned(use, chosen["id"]), {})
    by = {action: sum(file["action"] == action for file in plan["files"]) for action in ("copy", "convert")}
    lines = [
        f"{chosen['name']}: {plan['tracks']} tracks, {by['copy']} files to copy, {by['convert']} to convert, "
        f"{len(plan['removed'])} to remove, {megabytes(plan['write_bytes'])} to write"
    ]
    lines += [f"  {each['title']}: {each['player']} {each['says']}".replace(":  ", ": ")
              for each in plan["problems"]]  # fmt: skip
    if plan["missing_bytes"]:
        lines.append(f"  It does not fit: {megabytes(plan['missing_bytes'])} too much.")
    return _say(as_json, plan, lines, not plan["missing_bytes"])


def _pack(way: Way, chosen: Sequence[Told], as_json: bool) -> int:
    """Pack sticks side by side. A packing that was broken off, or is going on in a server, is waited for."""
    for each in chosen:
        if each["last_run"] and each["last_run"]["state"] not in ENDED:
            continue
        way.ask(f"{_at(each)}/pack", lambda use, i=each["id"]: job_out(use.packer.add(i)), {})  # type: ignore[misc]
    runs = [(each, _ended(way, each, "last_run")) for each in chosen]
    lines = []
    for each, run in runs:
        says = run["error"] or f"{run['tracks']} tracks, {run['written']} written, {run['removed']} removed"
        failed = f", {run['failures']} files failed" if run["failures"] else ""
        lines.append(f"{each['name']}: {run['state']}, {says}{failed}")
    well = all(run["state"] == "done" and not run["failures"] for _, run in runs)
    return _say(as_json, [run for _, run in runs], lines, well)


def _check(way: Way, chosen: Told, as_json: bool, mend: bool) -> int:
    way.ask(f"{_at(chosen)}/check", lambda use: job_out(use.packer.check(chosen["id"], mend)), {"mend": mend})
    check = _ended(way, chosen, "last_check")
    says = check["error"] or f"{check['files']} files, {check['damaged']} damaged, {check['mended']} mended"
    whole = check["state"] == "done" and (not check["damaged"] or mend)
    return _say(as_json, check, [f"{chosen['name']}: {says}"], whole)


def _ended(way: Way, chosen: Told, which: str) -> Told:
    """The last run of a stick, once it has ended."""
    while True:
        told = next(each for each in way.ask("/api/sticks", sticks_out) if each["id"] == chosen["id"])
        if told[which] and told[which]["state"] in ENDED:
            return dict(told[which])
        time.sleep(LOOK_S)


def _pull_changes(way: Way, chosen: Told, as_json: bool, both: str) -> int:
    """Take in what was changed on players; what both sides changed by the answer that was given."""
    stick_id = chosen["id"]
    plays = way.ask(f"{_at(chosen)}/plays", lambda use: _with_plays(use, stick_id), {})["plays_taken"]
    rows = way.ask(f"{_at(chosen)}/home", lambda use: came_home_out(use, stick_id))
    answers = {
        row["key"]: answer for row in rows if (answer := row["choice"] or OTHERWISE.get(both)) is not None
    }
    taken = way.ask(
        f"{_at(chosen)}/home", lambda use: _taken_home(use, stick_id, answers), {"choices": answers}
    )
    open_rows = [row for row in rows if row["key"] not in answers]
    lines = [f"{chosen['name']}: {taken['taken']} values and {plays} plays taken in"]
    lines += [f"  open, both changed: {row['subject']}, {row['what']}: here {row['here']}, on the player "
              f"{row['there']}" for row in open_rows]  # fmt: skip
    lines += [f"  not taken: {each}" for each in taken["failed"]]
    told = {"taken": taken["taken"], "plays": plays, "open": open_rows, "failed": taken["failed"]}
    return _say(as_json, told, lines, not open_rows and not taken["failed"])


def _at(chosen: Told) -> str:
    """Where the server's API has a stick."""
    return f"/api/sticks/{chosen['id']}"


def _planned(use: Services, stick_id: int) -> PlanOut:
    read = use.database.read()
    return plan_out(read, store.get_stick(read, stick_id), use.waveforms)


def _with_plays(use: Services, stick_id: int) -> StickOut:
    taken = sticks.take_plays(use, stick_id)
    out = stick_out(use, store.get_stick(use.database.read(), stick_id))
    return out.model_copy(update={"plays_taken": sum(each.added for each in taken)})


def _taken_home(use: Services, stick_id: int, answers: Mapping[str, Choice]) -> TakenHomeOut:
    taken, failed = sticks.take_home(use, stick_id, answers)
    return TakenHomeOut(taken=taken, failed=[f"{subject}: {why}" for subject, why in failed])


def _say(as_json: bool, told: Any, lines: Sequence[str], well: bool = True) -> int:
    print(json.dumps(told, ensure_ascii=False) if as_json else "\n".join(lines))
    return 0 if well else 1
