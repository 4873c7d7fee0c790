"""Tags in families: making them, giving them to tracks, and taking the files' genre words as styles."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids
from vinyl.api.convert import job_out
from vinyl.api.models.tags import (
    AmongOut,
    FamilyChange,
    FamilyIn,
    FamilyOut,
    GiveIn,
    GiveNewIn,
    GivenOut,
    MergeIn,
    OfferOut,
    TagChange,
    TagIn,
    TakeStylesIn,
    TracksOut,
)
from vinyl.api.models.tracks import Chosen
from vinyl.api.services import Use
from vinyl.library import styles
from vinyl.library import tags as stored
from vinyl.operations import tags

# So many are tagged while the user waits: half a second in a library of 300,000.
MOST_TAGGED = 10_000

router = APIRouter(prefix="/api", tags=["tags"])


@router.get("/tag-families")
def list_families(use: Use) -> list[FamilyOut]:
    """All families with their tags, in order; what is retired too."""
    return [FamilyOut.model_validate(family) for family in stored.list_families(use.database.read())]


@router.post("/tag-families", status_code=201)
def make_family(use: Use, wanted: FamilyIn) -> list[FamilyOut]:
    """Make a family."""
    tags.make_family(use.database, wanted.name, wanted.colour, wanted.sign)
    return list_families(use)


@router.patch("/tag-families/{family_id}")
def change_family(use: Use, family_id: int, change: FamilyChange) -> list[FamilyOut]:
    """Rename, colour, order or retire a family."""
    changes = {name: value for name, value in change.model_dump().items() if value is not None}
    tags.change_family(use.database, family_id, changes)
    return list_families(use)


@router.delete("/tag-families/{family_id}")
def delete_family(use: Use, family_id: int) -> list[FamilyOut]:
    """Forget a family and take its tags from all tracks."""
    tags.delete_family(use.database, family_id)
    return list_families(use)


@router.post("/tags", status_code=201)
def make_tag(use: Use, wanted: TagIn) -> list[FamilyOut]:
    """Make a tag, or take one of that name up again."""
    tags.make_tag(use.database, wanted.family_id, wanted.name)
    return list_families(use)


@router.patch("/tags/{tag_id}")
def change_tag(use: Use, tag_id: int, change: TagChange) -> list[FamilyOut]:
    """Rename, colour, order, retire a tag, give it a letter, or move it to another family."""
    tags.change_tag(use.database, tag_id, change.model_dump(exclude_unset=True))
    return list_families(use)


@router.post("/tags/{tag_id}/merge")
def merge_tag(use: Use, tag_id: int, wanted: MergeIn) -> list[FamilyOut]:
    """Give all tracks of a tag another instead."""
    tags.merge(use.database, tag_id, wanted.into)
    return list_families(use)


@router.delete("/tags/{tag_id}")
def delete_tag(use: Use, tag_id: int) -> list[FamilyOut]:
    """Take a tag from all its tracks and forget it."""
    tags.delete_tag(use.database, tag_id)
    return list_families(use)


@router.put("/tracks/tags")
def give_tag(use: Use, wanted: GiveIn) -> GivenOut:
    """Give a tag to tracks or take it, of very many in the background; those whose tags are locked are left
    out.
    """
    ids = chosen_ids(use, wanted)
    if len(ids) > MOST_TAGGED:
        job = tags.begin_giving(use.database, use.editor, wanted.tag_id, ids, wanted.given)
        return GivenOut(changed=0, locked=0, job=job_out(job))
    locked = tags.give(use.database, wanted.tag_id, ids, wanted.given)
    return GivenOut(changed=len(ids) - locked, locked=locked)


@router.post("/tracks/tags/new", status_code=201)
def give_new_tag(use: Use, wanted: GiveNewIn) -> GivenOut:
    """Make a tag and give it to tracks in one step, but for very many; those whose tags are locked are left
    out.
    """
    ids = chosen_ids(use, wanted)
    if len(ids) > MOST_TAGGED:
        tag_id = tags.make_tag(use.database, wanted.family_id, wanted.name)
        job = tags.begin_giving(use.database, use.editor, tag_id, ids, given=True)
        return GivenOut(changed=0, locked=0, job=job_out(job))
    locked = tags.give_new(use.database, wanted.family_id, wanted.name, ids)
    return GivenOut(changed=len(ids) - locked, locked=locked)


@router.post("/tracks/tags/among")
def count_among(use: Use, wanted: Chosen) -> AmongOut:
    """How many of the chosen tracks have each tag."""
    ids = chosen_ids(use, wanted)
    return AmongOut(total=len(ids), counts=stored.count_among(use.database.read(), ids))


@router.get("/tag-families/{family_id}/offers")
def offer_styles(use: Use, family_id: int) -> list[OfferOut]:
    """The styles that the files' genre words speak of, spellings of one taken together."""
    return [OfferOut.model_validate(offer) for offer in styles.offers(use.database.read(), family_id)]


@router.post("/tag-families/{family_id}/offers")
def take_styles(use: Use, family_id: int, wanted: TakeStylesIn) -> TracksOut:
    """Give tracks the tags that their genre words stand for."""
    return TracksOut(tracks=tags.take_styles(use.database, family_id, wanted.mapping))
