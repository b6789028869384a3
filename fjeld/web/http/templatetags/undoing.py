"""What somebody did last in a job, to be taken back from any page of it."""

from __future__ import annotations

from typing import Any

from django import template
from django.template.context import Context

from fjeld.web.http import store
from fjeld.web.jobs.models import Job

register = template.Library()


@register.inclusion_tag("errand/undo.html", takes_context=True)
def undo_of(context: Context, job: Job) -> dict[str, Any]:
    """The person's own last step in an errand, and what was taken back last, each to be undone by
    its words.
    """
    request = context["request"]
    step, undone = store.last_step(job, request.user), store.last_undone(job, request.user)
    steps = [("undo", "Undo", step.words, step.seq)] if step else []
    if undone and undone.undoes:
        steps.append(("redo", "Redo", undone.undoes.words, undone.seq))
    return {
        "job": job,
        "back": request.path,
        "csrf_token": context.get("csrf_token", ""),
        "steps": [] if job.archived else steps,
    }
