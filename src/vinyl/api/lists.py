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
from vinyl.library import dividers, list_documents
from vinyl.library.sorts import SortName
from vinyl.operations import lists

router = APIRouter(prefix="/api", tags=["lists"])


@router.post("/crates/{crate_id}/sections")
def list_sections(use: Use, crate_id: int, wanted: SortsIn) -> list[DividedOut]:
    """The dividers of a list, in its own order or as it is sorted for looking, with what is below each."""
    sections = dividers.list_sections(use.database.read(), crate_id, _sorts(wanted.sorts))
    return [DividedOut.model_validate(section) for section in sections]


@router.put("/crates/{crate_id}/divided-by", status_code=204)
def divide_by(use: Use, crate_id: int, wanted: DividedBy) -> None:
    """Let a list stand under dividers by a value, or under those by hand."""
    lists.divide_by(use.database, crate_id, wanted.by)


@router.post("/crates/{crate_id}/dividers/keep", status_code=204)
def keep_dividers(use: Use, crate_id: int) -> None:
    """Make dividers by hand of those that a list has by a value."""
    lists.keep_dividers(use.database, crate_id)


@router.post("/crates/{crate_id}/dividers", status_code=204)
def add_divider(use: Use, crate_id: int, wanted: DividerIn) -> None:
    """Set a divider right before a track."""
    lists.add_divider(use.database, crate_id, wanted.name, wanted.at, wanted.sign, wanted.colour)


@router.patch("/dividers/{divider_id}", status_code=204)
def change_divider(use: Use, divider_id: int, change: DividerChange) -> None:
    """Say something else on a divider, or move it."""
    lists.change_divider(use.database, divider_id, change.name, change.sign, change.colour, change.at)


@router.delete("/dividers/{divider_id}", status_code=204)
def remove_divider(use: Use, divider_id: int) -> None:
    """Take a divider away; the tracks below it stay."""
    lists.remove_divider(use.database, divider_id)


@router.post("/crates/{crate_id}/combine")
def combine(use: Use, crate_id: int, wanted: CombineIn) -> MovedOut:
    """Put another list into one, take it out of it, or leave only what is in both."""
    return MovedOut(tracks=lists.combine(use.database, crate_id, wanted.other_id, wanted.how))


@router.post("/crates/{crate_id}/arrange", status_code=204)
def arrange(use: Use, crate_id: int, wanted: ArrangeIn) -> None:
    """Shuffle a list, turn it round, or keep it as it is sorted."""
    lists.arrange(use.database, crate_id, wanted.how, _sorts(wanted.sorts))


@router.post("/crates/{crate_id}/copy", status_code=201)
def copy_list(use: Use, crate_id: int, wanted: CopyIn) -> CrateOut:
    """Make a copy of a list or folder, with all that is in it, beside it."""
    return CrateOut.model_validate(lists.copy(use.database, crate_id, wanted.name))


@router.put("/crates/{crate_id}/looks", status_code=204)
def change_looks(use: Use, crate_id: int, looks: LooksIn) -> None:
    """Give a list or folder a colour, a sign or a note."""
    lists.change_looks(use.database, crate_id, looks.colour, looks.sign, looks.note)


@router.post("/lists/order-by-name", status_code=204)
def order_by_name(use: Use, wanted: OrderIn) -> None:
    """Put the lists of a folder, or those in none, in the order of their names."""
    lists.order_by_name(use.database, wanted.folder_id)


@router.post("/lists/series", status_code=201)
def make_series(use: Use, wanted: SeriesIn) -> CrateOut:
    """Make a folder with a list that fills itself for each value, kept up as new values appear."""
    made = lists.make_series(use.database, wanted.name, wanted.by, wanted.folder_id)
    return CrateOut.model_validate(made)


@router.get("/crates/{crate_id}/document")
def get_document(use: Use, crate_id: int) -> ListDocument:
    """A list, or a folder with all that is in it, to be carried elsewhere."""
    return ListDocument(document=list_documents.document_of(use.database.read(), crate_id))


@router.post("/lists/import", status_code=201)
def import_list(use: Use, wanted: ListDocument) -> MadeOut:
    """Make the list or folder that a document holds; tracks that are not here are wanted."""
    return MadeOut.model_validate(lists.import_document(use.database, wanted.document))


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
    return MadeOut.model_validate(lists.bring_back(use.database, deleted_id))


def _sorts(sorts: Sequence[SortIn]) -> tuple[tuple[SortName, bool], ...]:
    return tuple((each.sort, each.descending) for each in sorts if each.sort != "crate")
