"""What holds for many tracks: cue templates, and when a track counts as prepared."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids
from vinyl.api.convert import job_out
from vinyl.api.models.preparing import (
    FinishRulesBody,
    TemplateCueBody,
    TemplateIn,
    TemplateOut,
    TemplatePreview,
    TemplateResultOut,
    TemplateUse,
    TemplateUsed,
)
from vinyl.api.services import Use
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rules.finishing import FinishRules
from vinyl.jobs.templating import AT_ONCE
from vinyl.library import choices, templates
from vinyl.library.templates import Template
from vinyl.operations import preparing

router = APIRouter(prefix="/api", tags=["preparing"])


@router.get("/templates")
def list_templates(use: Use) -> list[TemplateOut]:
    """All cue templates."""
    return [_out(template) for template in templates.list_templates(use.database.read())]


@router.post("/templates", status_code=201)
def add_template(use: Use, wanted: TemplateIn) -> TemplateOut:
    """Keep a new template."""
    return _out(preparing.save_template(use.database, wanted.name, _cues(wanted)))


@router.put("/templates/{template_id}")
def change_template(use: Use, template_id: int, wanted: TemplateIn) -> TemplateOut:
    """Change a template; cues it has made stay."""
    return _out(preparing.save_template(use.database, wanted.name, _cues(wanted), template_id))


@router.delete("/templates/{template_id}", status_code=204)
def delete_template(use: Use, template_id: int) -> None:
    """Forget a template; cues it has made stay."""
    preparing.delete_template(use.database, template_id)


@router.post("/templates/{template_id}/preview")
def preview_template(use: Use, template_id: int, wanted: TemplateUse) -> TemplatePreview:
    """What a template would add to the first of the tracks."""
    connection = use.database.read()
    template = templates.get_template(connection, template_id)
    ids = chosen_ids(use, wanted)
    results = templates.preview(connection, template, ids[:AT_ONCE])
    shown = [TemplateResultOut.model_validate(result) for result in results]
    return TemplatePreview(results=shown, more=len(ids) - len(results))


@router.post("/templates/{template_id}/use")
def use_template(use: Use, template_id: int, wanted: TemplateUse) -> TemplateUsed:
    """Set on tracks what a template asks for, but where cues are locked; on very many of them in the
    background.
    """
    return _used(use, template_id, wanted, delete=False)


@router.post("/templates/{template_id}/take-away")
def take_template_away(use: Use, template_id: int, wanted: TemplateUse) -> TemplateUsed:
    """Delete from tracks the cues that a template has set there, in the same way."""
    return _used(use, template_id, wanted, delete=True)


def _used(use: Use, template_id: int, wanted: TemplateUse, delete: bool) -> TemplateUsed:
    template = templates.get_template(use.database.read(), template_id)
    ids = chosen_ids(use, wanted)
    if len(ids) > AT_ONCE:
        job = use.templater.add(template, ids, delete)
        return TemplateUsed(cues=0, tracks=0, hindered=0, job=job_out(job))
    applied = use.templater.use(template, ids, delete=delete)
    return TemplateUsed(cues=applied.cues, tracks=applied.tracks, hindered=len(applied.hindered), job=None)


@router.get("/finish-rules")
def get_finish_rules(use: Use) -> FinishRulesBody:
    """When a track counts as prepared."""
    return FinishRulesBody.model_validate(choices.get_finish_rules(use.database.read()))


@router.put("/finish-rules")
def set_finish_rules(use: Use, rules: FinishRulesBody) -> FinishRulesBody:
    """Change when a track counts as prepared."""
    preparing.set_finish_rules(
        use.database, FinishRules(**{**rules.model_dump(), "roles": tuple(rules.roles)})
    )
    return get_finish_rules(use)


def _cues(wanted: TemplateIn) -> list[TemplateCue]:
    return [TemplateCue(**cue.model_dump()) for cue in wanted.cues]


def _out(template: Template) -> TemplateOut:
    return TemplateOut(
        id=template.id,
        name=template.name,
        cues=[TemplateCueBody(**asdict(cue)) for cue in template.cues],
    )
