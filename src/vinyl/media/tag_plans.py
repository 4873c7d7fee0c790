"""What writing would change in one file, and doing it: the part of the work that is done in a worker."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from vinyl.core.tag_form import TAG_FIELDS, TagField, WriteForm, file_name, texts_to_write
from vinyl.media.errors import MediaError
from vinyl.media.files import AllowedRoots, FolderError
from vinyl.media.rewriting import Written, is_written, put_back, rewrite
from vinyl.media.tags import Chapter, Tags, parse, read_tags
from vinyl.media.tags.editing import NO_CHAPTERS, NO_TAGS, as_held, can_hold_tags, edit_tags

# Values that tags keep under other names (vinyl.media.tags.model).
ATTRIBUTES = {"tempo": "bpm", "stars": "rating"}
GONE = "Its file is not there: plug in its drive, then write it again."
CHANGED = "The file was changed since Vinyl read it: read its tags again first."
TAKEN = "A file of this name lies there already."
SUFFIX = ".tags"


@dataclass(frozen=True, slots=True)
class ToWrite:
    """A file, as the library knows it, with what is known of its track."""

    track_id: int
    path: str
    size_bytes: int
    modified_ns: int
    values: Mapping[TagField, str]
    marks: tuple[Chapter, ...] = ()


@dataclass(frozen=True, slots=True)
class TagChange:
    """One tag of a file as it is and as it would be; None where there is none."""

    field: str
    before: str | None
    after: str


@dataclass(frozen=True, slots=True)
class TagPlan:
    """What would be written into a file. ``note`` says what cannot be, ``refused`` why nothing can."""

    track_id: int
    name: str
    changes: tuple[TagChange, ...] = ()
    new_name: str | None = None
    note: str = ""
    refused: str = ""
    texts: Mapping[str, str] = field(default_factory=dict)
    marks: tuple[Chapter, ...] | None = None


@dataclass(frozen=True, slots=True)
class WrittenFile:
    """A file after writing, or why it was left as it was."""

    track_id: int
    path: str = ""
    written: Written | None = None
    tags: Tags | None = None
    refused: str = ""


def plan_all(files: list[ToWrite], form: WriteForm, pattern: str, roots: AllowedRoots) -> list[TagPlan]:
    """What would change in each file."""
    return [plan(file, form, pattern, roots) for file in files]


def plan(file: ToWrite, form: WriteForm, pattern: str, roots: AllowedRoots) -> TagPlan:
    """What would change in a file.

    Args:
        pattern: what the file is to be called, or empty if it keeps its name.
    """
    path = Path(file.path)
    try:
        path = roots.check(path)
        stat = path.stat()
    except FolderError as error:
        return TagPlan(file.track_id, path.name, refused=str(error))
    except OSError:
        return TagPlan(file.track_id, path.name, refused=GONE)
    if (stat.st_size, stat.st_mtime_ns) != (file.size_bytes, file.modified_ns):
        return TagPlan(file.track_id, path.name, refused=CHANGED)
    name, taken = _new_name(file, path, form, pattern)
    parsed = parse(path)
    if not can_hold_tags(parsed):
        refused = NO_TAGS if name is None else ""
        return TagPlan(file.track_id, path.name, (), name, taken or NO_TAGS, refused)
    return _plan_tags(file, path, parsed, form, name, taken)


def _plan_tags(
    file: ToWrite, path: Path, parsed: object, form: WriteForm, name: str | None, note: str
) -> TagPlan:
    there = read_tags(path, parsed)
    texts = {
        tag: as_held(parsed, tag, text)
        for tag, text in texts_to_write(form, file.values, there.comment).items()
    }
    before = {tag: _text_of(there, tag) for tag in TAG_FIELDS}
    changes = [
        TagChange(tag, before[tag], text) for tag, text in texts.items() if not _same(tag, before[tag], text)
    ]
    marks = file.marks if form.cues and file.marks else None
    if marks and path.suffix.lower() in (".m4a", ".mp4", ".alac"):
        marks, note = None, note or NO_CHAPTERS
    if marks and marks != there.chapters:
        changes.append(TagChange("chapters", _marks_text(there.chapters), _marks_text(marks) or ""))
    elif marks:
        marks = None
    kept = {change.field: change.after for change in changes if change.field != "chapters"}
    return TagPlan(file.track_id, path.name, tuple(changes), name, note, "", kept, marks)


def write_one(
    file: ToWrite, form: WriteForm, pattern: str, kept: Path, roots: AllowedRoots
) -> WrittenFile | None:
    """Write a file's tags and its name as planned; None where nothing would change, or a run that was broken
    off has written it already.
    """
    if is_written(Path(file.path), kept):
        return None
    if renamed := _renamed_before(file, form, pattern, kept):
        return _after(file.track_id, roots.check(renamed))
    planned = plan(file, form, pattern, roots)
    if planned.refused:
        return WrittenFile(file.track_id, refused=planned.refused)
    if not planned.changes and planned.new_name is None:
        return None
    path = roots.check(Path(file.path))
    try:
        if planned.changes:
            rewrite(path, kept, lambda part: edit_tags(part, planned.texts, planned.marks))
        if planned.new_name is not None:
            path = _rename(path, planned.new_name, kept)
    except MediaError as error:
        return WrittenFile(file.track_id, refused=str(error))
    return _after(file.track_id, path)


def put_one_back(track_id: int, path: str, kept: Path, roots: AllowedRoots) -> WrittenFile:
    """Give a file back the tags and the name it had before it was written."""
    try:
        there = roots.check(Path(path))
        names = kept.with_suffix(".name")
        if kept.exists():
            put_back(there, kept)
        if names.exists():
            old = names.read_text(encoding="utf-8")
            there = _rename(there, old, None)
    except (MediaError, FolderError) as error:
        return WrittenFile(track_id, refused=str(error))
    return _after(track_id, there)


def _after(track_id: int, path: Path) -> WrittenFile:
    stat = path.stat()
    return WrittenFile(track_id, str(path), Written(stat.st_size, stat.st_mtime_ns), read_tags(path))


def _renamed_before(file: ToWrite, form: WriteForm, pattern: str, kept: Path) -> Path | None:
    """Where a file lies that a run has renamed, but was broken off before that was noted."""
    path = Path(file.path)
    if path.exists() or not kept.with_suffix(".name").exists():
        return None
    renamed = path.with_name(file_name(pattern, file.values, form) + path.suffix)
    return renamed if renamed.exists() else None


def _new_name(file: ToWrite, path: Path, form: WriteForm, pattern: str) -> tuple[str | None, str]:
    """A file's new name, if it is to have one and can, and else why not."""
    stem = file_name(pattern, file.values, form) if pattern else ""
    name = stem + path.suffix
    if not stem or name == path.name:
        return None, ""
    return (None, TAKEN) if path.with_name(name).exists() else (name, "")


def _rename(path: Path, name: str, kept: Path | None) -> Path:
    """Give a file another name in its folder, and keep the old one.

    Raises:
        MediaError: if the name is taken.
    """
    target = path.with_name(name)
    if target.exists():
        raise MediaError(TAKEN)
    if kept is not None:
        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.with_suffix(".name").write_text(path.name, encoding="utf-8")
    return path.rename(target)


def _text_of(tags: Tags, tag: str) -> str | None:
    value = getattr(tags, ATTRIBUTES.get(tag, tag))
    if isinstance(value, float):
        return f"{value:g}"
    return str(value) if value else None


def _same(tag: str, before: str | None, after: str) -> bool:
    if tag == "tempo" and before is not None:
        return float(before) == float(after)
    return before == after or (tag == "stars" and before is None and after == "0")


def _marks_text(marks: tuple[Chapter, ...]) -> str | None:
    return ", ".join(f"{mark.title or 'mark'} at {mark.start_s:.2f} s" for mark in marks) or None
