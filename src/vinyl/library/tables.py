"""The registry of tables: each is declared once, and what is done with all of them is derived from here.

Undo, times of change, documents, events and references go by these declarations. Foreign keys are declared
in the schema itself; what is declared here beside them are global ids within JSON.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Literal

# What a window may show of the library: each topic stands for some of its queries.
Topic = Literal[
    "tracks",
    "added",
    "waveforms",
    "lists",
    "counts",
    "gigs",
    "exchange",
    "sticks",
    "templates",
    "tags",
    "backings",
    "colours",
    "rules",
    "imports",
    "twins",
    "sets",
    "undo",
    "all",
]

# Names under which conditions in JSON ask for something by its global id, and the table that has it.
IN_CONDITIONS: Mapping[str, str] = {"list": "crate", "tag": "tag", "backing": "backing", "venue": "venue"}
# How texts begin that go on with the global id of a tag family, or of a tag.
FAMILY, TAG = "tags ", "tag "


@dataclass(frozen=True, slots=True)
class Reference:
    """Global ids in a column: behind a prefix in its text, which point to the table ``to``; or in JSON of any
    depth under ``names``, each with the table that it points to.
    """

    column: str
    names: Mapping[str, str] = field(default_factory=dict)
    to: str = ""
    prefix: str = ""


@dataclass(frozen=True, slots=True)
class Table:
    """What is done with the rows of a table.

    Attributes:
        says: what a row of it is to people, one and many.
        topics: which topics tell of its changes; none for what no window shows, or has events of its own.
        undoable: whether changes of it can be undone.
        identified: whether its rows have a global id, and a time of change for each value.
        only_made: of an identified table, that only making and deleting of rows is noted.
        forgotten: of an identified table, that nothing is noted of what is gone: there would be no end of it.
        document: the name of its array in a document; empty for what stays on this computer.
        of_track: whether that array stands within each track's record.
        with_lists: whether it goes along where only chosen lists are written.
        ready: whether a new library has rows of it already.
        derived: whether its rows are made from others, and never count as work of somebody.
        references: global ids in its columns.
    """

    name: str
    says: tuple[str, str] = ("", "")
    topics: tuple[Topic, ...] = ()
    undoable: bool = False
    identified: bool = False
    only_made: bool = False
    forgotten: bool = False
    document: str = ""
    of_track: bool = False
    with_lists: bool = False
    ready: bool = False
    derived: bool = False
    references: tuple[Reference, ...] = ()


def _of_track(
    name: str,
    says: tuple[str, str],
    document: str,
    *topics: Topic,
    undoable: bool = False,
    identified: bool = False,
) -> Table:
    return Table(name, says, ("tracks", *topics), undoable, identified, document=document, of_track=True)


# Each after those that it refers to, as documents must have them.
TABLES: tuple[Table, ...] = (
    Table(
        "venue",
        ("a venue", "venues"),
        ("gigs",),
        undoable=True,
        identified=True,
        document="venues",
        with_lists=True,
    ),
    Table(
        "recurring",
        ("a gig that comes again", "gigs that come again"),
        ("gigs",),
        undoable=True,
        identified=True,
        document="recurring",
    ),
    Table(
        "tag_family",
        ("a tag family", "tag families"),
        ("tags",),
        undoable=True,
        identified=True,
        document="families",
        with_lists=True,
        ready=True,
    ),
    Table(
        "tag",
        ("a tag", "tags"),
        ("tags",),
        undoable=True,
        identified=True,
        document="tags",
        with_lists=True,
        ready=True,
    ),
    Table("genre_word", ("a genre word", "genre words"), ("tags",), undoable=True, document="genre_words"),
    Table(
        "backing",
        ("a backing", "backings"),
        ("backings",),
        undoable=True,
        identified=True,
        document="backings",
        with_lists=True,
    ),
    Table(
        "work",
        ("a work", "works"),
        ("twins",),
        undoable=True,
        identified=True,
        document="works",
        with_lists=True,
    ),
    Table(
        "cue_template",
        ("a template", "templates"),
        ("templates",),
        undoable=True,
        identified=True,
        document="templates",
        ready=True,
    ),
    Table(
        "cue_colour",
        ("a colour of cues", "colours of cues"),
        ("colours",),
        undoable=True,
        document="cue_colours",
        with_lists=True,
        ready=True,
    ),
    Table(
        "track_colour",
        ("a colour of tracks", "colours of tracks"),
        ("colours",),
        undoable=True,
        document="track_colours",
        with_lists=True,
        ready=True,
    ),
    Table("choice", ("a setting", "settings"), ("rules", "imports"), undoable=True, document="choices"),
    Table(
        "player_settings",
        ("a set of settings", "sets of settings"),
        ("sticks",),
        undoable=True,
        document="player_settings",
    ),
    Table(
        "track",
        ("a track", "tracks"),
        ("tracks", "added"),
        identified=True,
        only_made=True,
        document="tracks",
    ),
    _of_track("track_value", ("a value", "values"), "values", undoable=True),
    _of_track("track_analysis", ("an analysis", "analyses"), "analysis", "waveforms"),
    _of_track("track_likeness", ("a fingerprint", "fingerprints"), "likeness", "waveforms"),
    _of_track("track_lock", ("a lock", "locks"), "locks", undoable=True),
    _of_track("track_replaced", ("a replaced file", "replaced files"), "replaced", undoable=True),
    _of_track("track_copy", ("a copy", "copies"), "copies"),
    _of_track("given_name", ("a file’s new name", "files’ new names"), "given_names"),
    _of_track("cue", ("a cue", "cues"), "cues", undoable=True, identified=True),
    _of_track("route", ("a route", "routes"), "routes", undoable=True, identified=True),
    _of_track("track_tag", ("a tag of a track", "tags of tracks"), "tags", undoable=True),
    _of_track("track_backing", ("a track’s backing", "tracks’ backings"), "backing", undoable=True),
    _of_track("track_version", ("a version", "versions"), "version", "twins", undoable=True),
    _of_track(
        "twin_later", ("a mark to look again", "marks to look again"), "twin_later", "twins", undoable=True
    ),
    _of_track(
        "copy_off", ("a copy put aside", "copies put aside"), "copies_off", "added", "twins", undoable=True
    ),
    _of_track(
        "off_shelf", ("a track off the Shelf", "tracks off the Shelf"), "off_shelf", "added", undoable=True
    ),
    _of_track("track_clearance", ("a clearance", "clearances"), "clearance", "sets", undoable=True),
    Table(
        "twin_not",
        ("two that are no twins", "pairs that are no twins"),
        ("twins",),
        undoable=True,
        document="no_twins",
    ),
    Table(
        "wanted",
        ("a wanted entry", "wanted entries"),
        ("lists",),
        undoable=True,
        identified=True,
        document="wanted",
        with_lists=True,
    ),
    Table(
        "crate",
        ("a list", "lists"),
        ("lists",),
        undoable=True,
        identified=True,
        document="lists",
        with_lists=True,
        references=(
            Reference("rule", IN_CONDITIONS),
            Reference("series", {"by": "tag_family"}, prefix=FAMILY),
            Reference("series_value", to="tag", prefix=TAG),
            Reference("divided_by", to="tag_family", prefix=FAMILY),
        ),
    ),
    Table(
        "divider",
        ("a divider", "dividers"),
        ("lists",),
        undoable=True,
        identified=True,
        document="dividers",
        with_lists=True,
    ),
    Table(
        "crate_place",
        ("a place in a list", "places in lists"),
        ("lists",),
        undoable=True,
        identified=True,
        forgotten=True,
        document="places",
        with_lists=True,
    ),
    Table(
        "deleted_list",
        ("a deleted list", "deleted lists"),
        ("lists",),
        undoable=True,
        document="deleted_lists",
        references=(
            Reference("document", IN_CONDITIONS),
            Reference("document", {"by": "tag_family"}, prefix=FAMILY),
        ),
    ),
    Table("gig", ("a night", "nights"), ("gigs",), undoable=True, identified=True, document="gigs"),
    Table("play", ("a play", "plays"), ("gigs",), undoable=True, identified=True, document="plays"),
    Table("dj_set", ("a set", "sets"), ("sets",), undoable=True, identified=True, document="sets"),
    Table(
        "set_entry",
        ("a track of a set", "tracks of sets"),
        ("sets",),
        undoable=True,
        identified=True,
        forgotten=True,
        document="set_entries",
    ),
    Table(
        "set_transition",
        ("a joint of a set", "joints of sets"),
        ("sets",),
        undoable=True,
        identified=True,
        forgotten=True,
        document="set_transitions",
    ),
    Table(
        "chain_step",
        ("a step of a chain", "steps of chains"),
        ("sets",),
        undoable=True,
        identified=True,
        forgotten=True,
        document="chain_steps",
    ),
    Table(
        "mix_verdict",
        ("what was said of a mix", "what was said of mixes"),
        ("sets",),
        undoable=True,
        document="mix_verdicts",
    ),
    Table("play_told", ("a play of a player", "plays of players"), undoable=True, document="plays_told"),
    Table(
        "destination",
        ("a destination", "destinations"),
        ("exchange",),
        undoable=True,
        document="destinations",
        references=(Reference("told", {"lists": "crate"}),),
    ),
    Table("value_time", document="times", ready=True),
    # What stays on this computer: sticks and other libraries as they lie here, work in hand, files put aside.
    Table("carried", ("a note of what was carried", "notes of what was carried"), ("exchange",)),
    Table("stick", ("a stick", "sticks"), ("sticks",)),
    Table("stick_crate", ("a list on a stick", "lists on sticks"), ("sticks",), undoable=True),
    Table("stick_player", ("a player of a stick", "players of sticks"), ("sticks",)),
    Table("stick_left_out", ("a track left out", "tracks left out"), ("sticks",), undoable=True),
    Table("stick_settled", ("an answer to a stick", "answers to sticks"), ("sticks",), undoable=True),
    Table("stick_file", ("a file on a stick", "files on sticks"), ("sticks",)),
    Table("stick_packed", ("a packed track", "packed tracks"), ("sticks",)),
    Table("analysis_queue", ("a track in the queue", "tracks in the queue"), ("tracks",)),
    Table("put_aside", ("a file put aside", "files put aside"), ("added",)),
    Table("import_file", ("a file of an import", "files of imports"), ("imports",)),
    Table("job", ("a job", "jobs")),
    Table("job_failure", ("a failed item", "failed items")),
    Table("this_library"),
    Table("twin_pair", topics=("twins",), derived=True),
    Table("twin_seen", topics=("twins",), derived=True),
    # What is made from the others, or kept for the program itself.
    Table("shelf", topics=("tracks",), derived=True),
    Table("shelf_made", derived=True),
    Table("shelf_word", derived=True),
    Table("shelf_word_in", derived=True),
    Table("crate_size", derived=True),
    Table("key_place", derived=True),
    Table("revision", derived=True),
    Table("undo_step", topics=("undo",), derived=True),
    Table("undo_entry", derived=True),
    Table("undo_recording", derived=True),
    Table("undo_shape", derived=True),
)


@cache
def named(name: str) -> Table:
    """The declaration of a table.

    Raises:
        KeyError: if it is not declared.
    """
    return {table.name: table for table in TABLES}[name]


UNDOABLE = tuple(table for table in TABLES if table.undoable)
IDENTIFIED = tuple(table for table in TABLES if table.identified)
IN_DOCUMENTS = tuple(
    table for table in TABLES if table.document and not table.of_track and table.name != "track"
)
OF_TRACKS = tuple(table for table in TABLES if table.of_track)


def topics_of(names: frozenset[str]) -> tuple[Topic, ...]:
    """The topics that tell of changes of tables, each once."""
    return tuple(dict.fromkeys(topic for table in TABLES if table.name in names for topic in table.topics))
