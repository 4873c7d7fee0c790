"""What holds for many tracks: cue templates, and when a track counts as prepared."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from vinyl.api import models
from vinyl.api.services import Use
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rules.finishing import FinishRules
from vinyl.library import choices, templates
from vinyl.library.templates import Template

router = APIRouter(prefix="/api", tags=["preparing"])


@router.get("/templates")
def list_templates(use: Use) -> list[models.TemplateOut]:
    """All cue templates."""
    return [_out(template) for template in templates.list_templates(use.database.read())]


@router.post("/templates", status_code=201)
def add_template(use: Use, wanted: models.TemplateIn) -> models.TemplateOut:
    """Keep a new template."""
    with use.database.write(f"Save the template “{wanted.name}”") as connection:
        saved = templates.save_template(connection, wanted.name, _cues(wanted))
    use.changed("library")
    return _out(templates.get_template(use.database.read(), saved))


@router.put("/templates/{template_id}")
def change_template(use: Use, template_id: int, wanted: models.TemplateIn) -> models.TemplateOut:
    """Change a template; cues it has made stay."""
    with use.database.write(f"Change the template “{wanted.name}”") as connection:
        templates.save_template(connection, wanted.name, _cues(wanted), template_id)
    use.changed("library")
    return _out(templates.get_template(use.database.read(), template_id))


@router.delete("/templates/{template_id}", status_code=204)
def delete_template(use: Use, template_id: int) -> None:
    """Forget a template; cues it has made stay."""
    with use.database.write("Delete a template") as connection:
        templates.delete_template(connection, template_id)
    use.changed("library")


@router.post("/templates/{template_id}/use")
def use_template(use: Use, template_id: int, wanted: models.TemplateUse) -> list[models.TemplateResultOut]:
    """What a template adds to tracks; with ``apply`` it is added, but where cues are locked."""
    template = templates.get_template(use.database.read(), template_id)
    if not wanted.apply:
        results = templates.preview(use.database.read(), template, wanted.ids)
    else:
        with use.database.write(f"Template “{template.name}” on {len(wanted.ids)} tracks") as connection:
            results = templates.apply(connection, template, wanted.ids)
        use.changed("tracks", track_ids=wanted.ids)
    return [models.TemplateResultOut.model_validate(result) for result in results]


@router.get("/finish-rules")
def get_finish_rules(use: Use) -> models.FinishRulesBody:
    """When a track counts as prepared."""
    return models.FinishRulesBody.model_validate(choices.get_finish_rules(use.database.read()))


@router.put("/finish-rules")
def set_finish_rules(use: Use, rules: models.FinishRulesBody) -> models.FinishRulesBody:
    """Change when a track counts as prepared."""
    with use.database.write("Change when a track is finished") as connection:
        choices.set_finish_rules(
            connection, FinishRules(**{**rules.model_dump(), "roles": tuple(rules.roles)})
        )
    use.changed("library")
    return get_finish_rules(use)


def _cues(wanted: models.TemplateIn) -> list[TemplateCue]:
    return [TemplateCue(**cue.model_dump()) for cue in wanted.cues]


def _out(template: Template) -> models.TemplateOut:
    return models.TemplateOut(
        id=template.id,
        name=template.name,
        cues=[models.TemplateCueBody(**asdict(cue)) for cue in template.cues],
    )
