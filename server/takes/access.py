"""A person's own takes, by their ids."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404

from people.signed_in import PersonRequest
from takes.models import Take


def own_take(request: PersonRequest, take_id: uuid.UUID) -> Take:
    """A take of the person who asks. Raises Http404."""
    return get_object_or_404(Take.objects.of(request.auth), id=take_id)
