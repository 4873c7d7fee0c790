"""Cue templates on many tracks: set a few tracks at a time, and taken back in one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.library import templates, undo
from vinyl.library.jobs import Job
from vinyl.library.templates import Applied, Template

KIND = "template"
# So many tracks are done while the user waits; more become a job.
AT_ONCE = 300
# Tracks of a transaction: others who write wait no longer than for these.
BATCH = 50


class Templater(Background):
    """The kind of job that uses a template on many tracks."""

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "track", "by hand", self._step),)

    def add(self, template: Template, track_ids: Sequence[int], delete: bool = False) -> Job:
        """Begin to use a template on tracks, or to delete what it has set there."""
        payload = {"template_id": template.id, "track_ids": list(track_ids), "delete": delete}
        return self._runner.begin(KIND, _name(template, delete), payload)

    def use(
        self,
        template: Template,
        track_ids: Sequence[int],
        told: Callable[[int], None] = lambda done: None,
        delete: bool = False,
    ) -> Applied:
        """Set on tracks what a template asks for, or delete it there, a few at a time, as one step that
        can be undone.
        """
        many = "a track" if len(track_ids) == 1 else f"{len(track_ids)} tracks"
        change = templates.take_away if delete else templates.apply
        applied, step = Applied(0, 0, ()), None
        for start in range(0, len(track_ids), BATCH):
            results = templates.preview(self._database.read(), template, track_ids[start : start + BATCH])
            with self._database.write(f"{_name(template, delete)} on {many}", onto=step) as connection:
                applied += change(connection, results)
                step = undo.recorded_step(connection)
            told(start + len(results))
        return applied

    def _step(self, task: Task) -> None:
        template = templates.get_template(self._database.read(), task.job.payload["template_id"])
        track_ids = task.job.payload["track_ids"]

        def told(done: int) -> None:
            task.check()
            task.progress(done, len(track_ids))

        delete = task.job.payload.get("delete", False)
        applied = self.use(template, track_ids, told, delete)
        done = "deleted" if delete else "set"
        for result in applied.hindered:
            task.fail_item(result.title, f"Nothing was {done}: {result.hindrance}.", result.track_id)
        task.keep_result({"cues": applied.cues, "tracks": applied.tracks})


def _name(template: Template, delete: bool) -> str:
    return f"Delete what template “{template.name}” sets" if delete else f"Template “{template.name}”"
