"""A picture arrives: taken in, and begun with a take."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404
from ninja import Query, Status

from intake.receiving import take_in
from jobs.models import Job
from people.signed_in import PersonRequest

# The address is that of the list of pictures, so it belongs to the same router.
from pictures.api import router
from pictures.models import Picture
from pictures.schemas import PictureOut
from takes.models import Take


@router.post("/jobs/{job_id}/pictures", response={201: PictureOut})
def add_picture(
    request: PersonRequest, job_id: uuid.UUID, name: str = Query(max_length=1000), damaged: bool = False
) -> Status[Picture]:
    """Add a picture: the request's body is the file, byte for byte.

    A damaged one is refused with the code ``damaged``, and taken in as far as it can be read with ``damaged=true``.
    """
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    picture = take_in(job, name, request.read, damaged)
    Take.objects.begin(picture)
    return Status(201, picture)
