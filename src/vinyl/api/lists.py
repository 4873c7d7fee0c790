"""What is done with whole lists: dividers, order, merging, copies, series, and bringing deleted ones back."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter

from vinyl.api.models.conditions import SortIn
from vinyl.api.models.crates import CrateOut
from vinyl.api.models.lists import (
    ArrangeIn,
    CombineIn,
    CopyIn,
    DeletedOut,
    DividedBy,
    DividedOut,
    DividerChange,
    DividerIn,
    ListDocument,
    LooksIn,
    MadeOut,
    MovedOut,
    OrderIn,
    ReadyMadeOut,
    SeriesIn,
    SortsIn,
)
from vinyl.api.models.rules import RuleBody
from vinyl.api.services import Use
from vinyl.core.rules.ready_made import READY_MADE
from vinyl.library import combining, crates, dividers, list_documents, series
from vinyl.library.sorts import SortName

router = APIRouter(prefix="/api", tags=["lists"])

COMBINED = {"merge": "Put “{other}” into “{name}”", "subtract": "Take “{other}” out of “{name}”",
            "intersect": "Leave of “{name}” what is in “{other}” too"}  # fmt: skip
ARRANGED = {"shuffle": "Shuffle “{}”", "reverse": "Turn “{}” round", "as sorted": "Keep “{}” as it is sorted"}


@router.post("/crates/{crate_id}/sections")
def list_sections(use: Use, crate_id: int, wanted: SortsIn) -> list[DividedOut]:
    """The dividers of a list, in its own order or as it is sorted for looking, with what is below each."""
    sections = dividers.list_sections(use.database.read(), crate_id, _sorts(wanted.sorts))
    return [DividedOut.model_validate(section) for section in sections]


@router.put("/crates/{crate_id}/divided-by", status_code=204)
def divide_by(use: Use, crate_id: int, wanted: DividedBy) -> None:
    """Let a list stand under dividers by a value, or under those by hand."""
    name = _name(use, crate_id)
    what = f"Divide “{name}” by {wanted.by}" if wanted.by else f"Divide “{name}” by hand"
    with use.database.write(what) as connection:
        dividers.divide_by(connection, crate_id, wanted.by)
    use.changed("lists", "undo")


@router.post("/crates/{crate_id}/dividers/keep", status_code=204)
def keep_dividers(use: Use, crate_id: int) -> None:
    """Make dividers by hand of those that a list has by a value."""
    with use.database.write(f"Keep the dividers of “{_name(use, crate_id)}”") as connection:
        dividers.keep_dividers(connection, crate_id)
    use.changed("lists", "undo")


@router.post("/crates/{crate_id}/dividers", status_code=204)
def add_divider(use: Use, crate_id: int, wanted: DividerIn) -> None:
    """Set a divider right before a track."""
    with use.database.write(f"Set the divider “{wanted.name}”") as connection:
        dividers.add_divider(connection, crate_id, wanted.name, wanted.at, wanted.sign, wanted.colour)
    use.changed("lists", "undo")


@router.patch("/dividers/{divider_id}", status_code=204)
def change_divider(use: Use, divider_id: int, change: DividerChange) -> None:
    """Say something else on a divider, or move it."""
    with use.database.write("Change a divider" if change.name else "Move a divider") as connection:
        if change.name is not None:
            dividers.change_divider(connection, divider_id, change.name, change.sign, change.colour)
        if change.at is not None:
            dividers.move_divider(connection, divider_id, change.at)
    use.changed("lists", "undo")


@router.delete("/dividers/{divider_id}", status_code=204)
def remove_divider(use: Use, divider_id: int) -> None:
    """Take a divider away; the tracks below it stay."""
    with use.database.write("Take a divider away") as connection:
        dividers.remove_divider(connection, divider_id)
    use.changed("lists", "undo")


@router.post("/crates/{crate_id}/combine")
def combine(use: Use, crate_id: int, wanted: CombineIn) -> MovedOut:
    """Put another list into one, take it out of it, or leave only what is in both."""
    name, other = _name(use, crate_id), _name(use, wanted.other_id)
    with use.database.write(COMBINED[wanted.how].format(name=name, other=other)) as connection:
        moved = combining.combine(connection, crate_id, wanted.other_id, wanted.how)
    use.changed("lists", "undo")
    return MovedOut(tracks=moved)


@router.post("/crates/{crate_id}/arrange", status_code=204)
def arrange(use: Use, crate_id: int, wanted: ArrangeIn) -> None:
    """Shuffle a list, turn it round, or keep it as it is sorted."""
    with use.database.write(ARRANGED[wanted.how].format(_name(use, crate_id))) as connection:
        combining.arrange(connection, crate_id, wanted.how, _sorts(wanted.sorts))
    use.changed("lists", "undo")


@router.post("/crates/{crate_id}/copy", status_code=201)
def copy_list(use: Use, crate_id: int, wanted: CopyIn) -> CrateOut:
    """Make a copy of a list or folder, with all that is in it, beside it."""
    with use.database.write(f"Copy “{_name(use, crate_id)}”") as connection:
        folder_id = crates.get_crate(connection, crate_id).folder_id
        document = list_documents.document_of(connection, crate_id)
        made = list_documents.make_of(connection, document, folder_id, wanted.name)
        crate = crates.get_crate(connection, made.crate_id)
    use.changed("lists", "undo")
    return CrateOut.model_validate(crate)


@router.put("/crates/{crate_id}/looks", status_code=204)
def change_looks(use: Use, crate_id: int, looks: LooksIn) -> None:
    """Give a list or folder a colour, a sign or a note."""
    with use.database.write(f"Change how “{_name(use, crate_id)}” looks") as connection:
        crates.change_looks(connection, crate_id, looks.colour, looks.sign, looks.note)
    use.changed("lists", "undo")


@router.post("/lists/order-by-name", status_code=204)
def order_by_name(use: Use, wanted: OrderIn) -> None:
    """Put the lists of a folder, or those in none, in the order of their names."""
    with use.database.write("Order lists by name") as connection:
        crates.order_by_name(connection, wanted.folder_id)
    use.changed("lists", "undo")


@router.post("/lists/series", status_code=201)
def make_series(use: Use, wanted: SeriesIn) -> CrateOut:
    """Make a folder with a list that fills itself for each value, kept up as new values appear."""
    with use.database.write(f"Make the lists of “{wanted.name}”") as connection:
        made = series.make_series(connection, wanted.name, wanted.by, wanted.folder_id)
        crate = crates.get_crate(connection, made)
    use.changed("lists", "undo")
    return CrateOut.model_validate(crate)


@router.get("/crates/{crate_id}/document")
def get_document(use: Use, crate_id: int) -> ListDocument:
    """A list, or a folder with all that is in it, to be carried elsewhere."""
    return ListDocument(document=list_documents.document_of(use.database.read(), crate_id))


@router.post("/lists/import", status_code=201)
def import_list(use: Use, wanted: ListDocument) -> MadeOut:
    """Make the list or folder that a document holds; tracks that are not here are wanted."""
    with use.database.write("Bring a list in") as connection:
        made = list_documents.make_of(connection, wanted.document)
    use.changed("lists", "undo")
    return MadeOut.model_validate(made)


@router.get("/lists/ready-made")
def list_ready_made() -> list[ReadyMadeOut]:
    """Rules for a start."""
    return [
        ReadyMadeOut(name=each.name, says=each.says, rule=RuleBody.from_core(each.rule))
        for each in READY_MADE
    ]


@router.get("/lists/deleted")
def list_deleted(use: Use) -> list[DeletedOut]:
    """The lists and folders that were deleted, the last first."""
    return [DeletedOut.model_validate(each) for each in list_documents.list_deleted(use.database.read())]


@router.post("/lists/deleted/{deleted_id}/bring-back", status_code=201)
def bring_back(use: Use, deleted_id: int) -> MadeOut:
    """Make a deleted list or folder again."""
    with use.database.write("Bring a deleted list back") as connection:
        made = list_documents.bring_back(connection, deleted_id)
    use.changed("lists", "undo")
    return MadeOut.model_validate(made)


def _name(use: Use, crate_id: int) -> str:
    return crates.get_crate(use.database.read(), crate_id).name


def _sorts(sorts: Sequence[SortIn]) -> tuple[tuple[SortName, bool], ...]:
    return tuple((each.sort, each.descending) for each in sorts if each.sort != "crate")
