"""Tags in families: making them, giving them to tracks, and taking the files' genre words as styles."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids, many, told
from vinyl.api.models.tags import (
    AmongOut,
    FamilyChange,
    FamilyIn,
    FamilyOut,
    GiveIn,
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
from vinyl.library import styles, tags

router = APIRouter(prefix="/api", tags=["tags"])


@router.get("/tag-families")
def list_families(use: Use) -> list[FamilyOut]:
    """All families with their tags, in order; what is retired too."""
    return [FamilyOut.model_validate(family) for family in tags.list_families(use.database.read())]


@router.post("/tag-families", status_code=201)
def make_family(use: Use, wanted: FamilyIn) -> list[FamilyOut]:
    """Make a family."""
    with use.database.write(f"Make the tag family “{wanted.name}”") as connection:
        tags.make_family(connection, wanted.name, wanted.colour, wanted.sign)
    use.changed("tags", "undo")
    return list_families(use)


@router.patch("/tag-families/{family_id}")
def change_family(use: Use, family_id: int, change: FamilyChange) -> list[FamilyOut]:
    """Rename, colour, order or retire a family."""
    changes = {name: value for name, value in change.model_dump().items() if value is not None}
    with use.database.write("Change a tag family") as connection:
        tags.change_family(connection, family_id, changes)
    use.changed("tags", "undo")
    return list_families(use)


@router.delete("/tag-families/{family_id}")
def delete_family(use: Use, family_id: int) -> list[FamilyOut]:
    """Forget a family and take its tags from all tracks."""
    with use.database.write("Delete a tag family") as connection:
        tags.delete_family(connection, family_id)
    use.changed("tags", "tracks", "undo")
    return list_families(use)


@router.post("/tags", status_code=201)
def make_tag(use: Use, wanted: TagIn) -> list[FamilyOut]:
    """Make a tag, or take one of that name up again."""
    with use.database.write(f"Make the tag “{wanted.name}”") as connection:
        tags.make_tag(connection, wanted.family_id, wanted.name)
    use.changed("tags", "undo")
    return list_families(use)


@router.patch("/tags/{tag_id}")
def change_tag(use: Use, tag_id: int, change: TagChange) -> list[FamilyOut]:
    """Rename, colour, order, retire a tag, give it a letter, or move it to another family."""
    name = tags.name_of(use.database.read(), tag_id)
    with use.database.write(f"Change the tag “{name}”") as connection:
        tags.change_tag(connection, tag_id, change.model_dump(exclude_unset=True))
    use.changed("tags", *(("tracks",) if change.name else ()), "undo")
    return list_families(use)


@router.post("/tags/{tag_id}/merge")
def merge_tag(use: Use, tag_id: int, wanted: MergeIn) -> list[FamilyOut]:
    """Give all tracks of a tag another instead."""
    read = use.database.read()
    name, into = tags.name_of(read, tag_id), tags.name_of(read, wanted.into)
    with use.database.write(f"Merge the tag “{name}” into “{into}”") as connection:
        tags.merge(connection, tag_id, wanted.into)
    use.changed("tags", "tracks", "undo")
    return list_families(use)


@router.delete("/tags/{tag_id}")
def delete_tag(use: Use, tag_id: int) -> list[FamilyOut]:
    """Take a tag from all its tracks and forget it."""
    name = tags.name_of(use.database.read(), tag_id)
    with use.database.write(f"Delete the tag “{name}”") as connection:
        tags.delete_tag(connection, tag_id)
    use.changed("tags", "tracks", "undo")
    return list_families(use)


@router.put("/tracks/tags")
def give_tag(use: Use, wanted: GiveIn) -> GivenOut:
    """Give a tag to tracks or take it; those whose tags are locked are left out."""
    ids, name = chosen_ids(use, wanted), tags.name_of(use.database.read(), wanted.tag_id)
    given = wanted.given
    if given is None:
        given = tags.count_among(use.database.read(), ids).get(wanted.tag_id, 0) < len(ids)
    with use.database.write(f"Tag {many(ids)} “{name}”" if given else f"Take “{name}” from {many(ids)}") as c:
        locked = tags.give(c, wanted.tag_id, ids, given)
    use.changed("tracks", "undo", track_ids=told(ids))
    return GivenOut(changed=len(ids) - locked, locked=locked)


@router.post("/tracks/tags/among")
def count_among(use: Use, wanted: Chosen) -> AmongOut:
    """How many of the chosen tracks have each tag."""
    ids = chosen_ids(use, wanted)
    return AmongOut(total=len(ids), counts=tags.count_among(use.database.read(), ids))


@router.get("/tag-families/{family_id}/offers")
def offer_styles(use: Use, family_id: int) -> list[OfferOut]:
    """The styles that the files' genre words speak of, spellings of one taken together."""
    return [OfferOut.model_validate(offer) for offer in styles.offers(use.database.read(), family_id)]


@router.post("/tag-families/{family_id}/offers")
def take_styles(use: Use, family_id: int, wanted: TakeStylesIn) -> TracksOut:
    """Give tracks the tags that their genre words stand for."""
    with use.database.write("Take styles from the files’ genre words") as connection:
        taken = styles.take(connection, family_id, wanted.mapping)
    use.changed("tags", "tracks", "undo")
    return TracksOut(tracks=taken)
