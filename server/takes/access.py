"""A person's own takes, by their ids."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404

from common.errors import Refused
from kitecore.steps import Step
from kitecore.takes.plan import Plan
from people.signed_in import PersonRequest
from takes.models import Take


def own_take(request: PersonRequest, take_id: uuid.UUID) -> Take:
    """A take of the person who asks. Raises Http404."""
    return get_object_or_404(Take.objects.of(request.auth), id=take_id)


def step_given(take: Take, index: int) -> tuple[Step, Plan]:
    """A step of a take, and the plan of what it is given. Raises Refused if there is no such step."""
    steps = take.core.steps
    if not 0 <= index < len(steps):
        raise Refused("There is no such step on this take any more; look again.")
    return steps[index], take.plan().until(sum(step.on for step in steps[:index]))
