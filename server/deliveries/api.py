"""Deliveries: order a file, follow it, call it off, try again, download it."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import AsyncIterator, Iterable, Iterator
from pathlib import Path
from typing import BinaryIO, Literal

from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.http import StreamingHttpResponse
from django.shortcuts import aget_object_or_404, get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Router, Status

from common.errors import Conflict, Refused
from common.names import file_name, safe_name
from common.ordering import Ordering
from common.store import store
from deliveries.bundle import bundle
from deliveries.events import delivery_events
from deliveries.hub import hub
from deliveries.ledger import Ledger, ledger_of
from deliveries.models import UNFINISHED, WAITING, Delivery, SavedOutput, State
from deliveries.names import free_name
from deliveries.orders import check_spec, fitted_to, name_of, order_delivery, order_panels
from deliveries.queue import call_off, enqueue, last_position, pause, put_in_order, resume
from deliveries.schemas import DeliveryIn, DeliveryOut, Estimate, FilesIn, OutputIn, OutputOut, Which
from jobs.models import Job
from kitecore.steps import Table
from people.models import Person
from people.signed_in import PersonRequest, signed_in
from rendering.speed import seconds_for
from takes.models import Take

router = Router(tags=["deliveries"])

_CHUNK = 1024 * 1024


@router.post("/takes/{take_id}/estimate", response=Estimate)
def estimate(request: PersonRequest, take_id: uuid.UUID, wanted: DeliveryIn) -> Estimate:
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    resolved = take.plan()
    size = wanted.spec.final_size(resolved.size, take.picture.facts["ppi"])
    encoder = check_spec(wanted.spec, take.picture, size)
    name = name_of(take, resolved, wanted.spec, wanted.name)
    return Estimate(
        name=free_name(take.picture.job, name, wanted.spec.format),
        bytes=encoder.estimated_bytes(size, take.picture.bands),
        width=size.width,
        height=size.height,
        seconds=seconds_for(resolved),
        bits=encoder.bits,
    )


@router.post("/takes/{take_id}/deliveries", response={201: DeliveryOut})
def create_delivery(request: PersonRequest, take_id: uuid.UUID, wanted: DeliveryIn) -> Status[Delivery]:
    """Order a file from the take as it is now; later changes of the take do not touch it."""
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    name = name_of(take, take.plan(), wanted.spec, wanted.name)
    return Status(201, order_delivery(take, wanted.spec, name))


@router.post("/takes/{take_id}/files", response={201: list[DeliveryOut]})
def create_files(request: PersonRequest, take_id: uuid.UUID, wanted: FilesIn) -> Status[list[Delivery]]:
    """Order a file, or one for each panel of its layout, and one by each of some saved outputs: all of them or none."""
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    outputs = SavedOutput.objects.of(request.auth).in_bulk(wanted.outputs)
    if len(outputs) < len(set(wanted.outputs)):
        raise Refused("One of these outputs is not saved any more; choose again.")
    with transaction.atomic():
        name = name_of(take, take.plan(), wanted.spec, wanted.name)
        made = order_panels(take, wanted.spec, name, wanted.after_approval)
        for output in (outputs[key] for key in dict.fromkeys(wanted.outputs)):
            spec = fitted_to(take.picture, take.plan(), output.core_spec)
            name = name_of(take, take.plan(), spec, output=output.name)
            made += order_panels(take, spec, name, wanted.after_approval)
    return Status(201, made)


@router.get("/outputs", response=list[OutputOut])
def list_outputs(request: PersonRequest) -> QuerySet[SavedOutput]:
    """The person's saved output specs."""
    return SavedOutput.objects.of(request.auth)


@router.post("/outputs", response={201: OutputOut})
def save_output(request: PersonRequest, wanted: OutputIn) -> Status[SavedOutput]:
    """Keep an output spec under a name; one of that name is replaced."""
    output, _ = SavedOutput.objects.update_or_create(
        owner=request.auth, name=wanted.name, defaults={"spec": wanted.spec.model_dump(mode="json")}
    )
    return Status(201, output)


@router.delete("/outputs/{output_id}", response={204: None})
def remove_output(request: PersonRequest, output_id: uuid.UUID) -> Status[None]:
    """Forget a saved output; what was delivered by it stays."""
    get_object_or_404(SavedOutput.objects.of(request.auth), id=output_id).delete()
    return Status(204, None)


@router.get("/jobs/{job_id}/deliveries", response=list[DeliveryOut])
def list_deliveries(request: PersonRequest, job_id: uuid.UUID) -> QuerySet[Delivery]:
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    return Delivery.objects.of(request.auth).filter(job=job)


@router.get("/deliveries", response=list[DeliveryOut])
def list_all_deliveries(request: PersonRequest) -> QuerySet[Delivery]:
    """The newest hundred of all jobs."""
    return Delivery.objects.of(request.auth)[:100]


@router.get("/deliveries/{delivery_id}", response=DeliveryOut)
def get_delivery(request: PersonRequest, delivery_id: uuid.UUID) -> Delivery:
    return get_object_or_404(Delivery.objects.of(request.auth), id=delivery_id)


@router.post("/deliveries/{delivery_id}/cancel", response=DeliveryOut)
def cancel_delivery(request: PersonRequest, delivery_id: uuid.UUID) -> Delivery:
    """Call a delivery off: at once if it waits, within one region's time if it runs."""
    mine = Delivery.objects.of(request.auth)
    delivery = get_object_or_404(mine, id=delivery_id)
    if delivery.state not in (*WAITING, *UNFINISHED):
        raise Conflict(f"{delivery.name} is {delivery.state} already.")
    call_off(mine.filter(id=delivery_id))
    delivery.refresh_from_db()
    return delivery


@router.post("/deliveries/{delivery_id}/retry", response=DeliveryOut)
def retry_delivery(request: PersonRequest, delivery_id: uuid.UUID) -> Delivery:
    """Make a failed or cancelled delivery again, under the same name."""
    with transaction.atomic():
        delivery = get_object_or_404(Delivery.objects.of(request.auth).select_for_update(of=("self",)), id=delivery_id)
        if delivery.state not in (State.FAILED, State.CANCELLED):
            raise Conflict(f"{delivery.name} is {delivery.state}; only failed or cancelled deliveries are tried again.")
        delivery.state, delivery.cancel_asked, delivery.progress = State.QUEUED, False, 0
        delivery.message, delivery.deaths, delivery.finished = "", 0, None
        delivery.position = last_position()
        delivery.save()
        enqueue(delivery)
    return delivery


@router.get("/queue", response=list[DeliveryOut])
def queue(request: PersonRequest) -> QuerySet[Delivery]:
    """What is being made and what waits, in the order in which it will be made."""
    return Delivery.objects.of(request.auth).filter(state__in=(*WAITING, *UNFINISHED)).order_by("position", "created")


@router.put("/queue/order", response=list[DeliveryOut])
def order_queue(request: PersonRequest, order: Ordering) -> QuerySet[Delivery]:
    """Have what waits made in this order."""
    put_in_order(Delivery.objects.of(request.auth), [str(one) for one in order.ids])
    return queue(request)


@router.post("/queue/{change}", response=list[DeliveryOut])
def change_queue(
    request: PersonRequest, change: Literal["pause", "resume", "cancel"], which: Which
) -> QuerySet[Delivery]:
    """Hold what waits, let it go on, or call everything off: all of the queue, one batch's, or some."""
    chosen = Delivery.objects.of(request.auth)
    if which.batch_id:
        chosen = chosen.filter(batch_id=which.batch_id)
    if which.ids is not None:
        chosen = chosen.filter(id__in=which.ids)
    {"pause": pause, "resume": resume, "cancel": call_off}[change](chosen)
    return queue(request)


async def _chunks(file: BinaryIO) -> AsyncIterator[bytes]:
    with file:
        while chunk := await asyncio.to_thread(file.read, _CHUNK):
            yield chunk


@router.get("/deliveries/{delivery_id}/file", auth=signed_in, include_in_schema=False)
async def download(request: PersonRequest, delivery_id: uuid.UUID) -> StreamingHttpResponse:
    mine = Delivery.objects.of(request.auth)
    delivery = await aget_object_or_404(mine, id=delivery_id)
    if delivery.state != State.DONE:
        raise Conflict(f"{delivery.name} is {delivery.state}; there is no file to download.")
    try:
        file = (await sync_to_async(store().here, thread_sensitive=False)(delivery.path)).open("rb")
    except FileNotFoundError:
        raise Conflict(f"The file of {delivery.name} is gone from the disk; deliver it again.") from None
    response = StreamingHttpResponse(_chunks(file), content_type="application/octet-stream")
    response["Content-Length"] = str(delivery.bytes)
    response["Content-Disposition"] = content_disposition_header(True, delivery.name) or "attachment"
    return response


@router.get("/jobs/{job_id}/bundle", auth=signed_in, include_in_schema=False)
async def download_bundle(request: PersonRequest, job_id: uuid.UUID) -> StreamingHttpResponse:
    """Every finished file of the job with checksums and the ledger, as one ZIP that is made while it is sent."""
    job, ledger, paths = await sync_to_async(_bundled)(request.auth, job_id)
    response = StreamingHttpResponse(_in_threads(bundle(ledger, paths)), content_type="application/zip")
    response["Content-Disposition"] = (
        content_disposition_header(True, f"{file_name(job.title, 'job')}.zip") or "attachment"
    )
    return response


def _bundled(person: Person, job_id: uuid.UUID) -> tuple[Job, Ledger, dict[str, Path]]:
    job = get_object_or_404(Job.objects.of(person), id=job_id)
    done = [one for one in Delivery.objects.of(person).filter(job=job, state=State.DONE) if store().has(one.path)]
    if not done:
        raise Conflict("Nothing has been delivered yet; deliver a take first.")
    paths = {delivery.name: delivery.path for delivery in done}
    return job, ledger_of(job, done), {**paths, **_tables_of(done)}


def _tables_of(done: Iterable[Delivery]) -> dict[str, Path]:
    """The look-up tables that were used and are still on the shelf, by their names in a bundle."""
    used = {
        step.table: step.name for one in done for step in one.core_take.steps if isinstance(step, Table) and step.table
    }
    return {
        f"tables/{safe_name(name, 'table')} {table[:8]}.cube": path
        for table, name in used.items()
        if (path := settings.TABLES / f"{table}.cube").is_file()
    }


async def _in_threads(parts: Iterator[bytes]) -> AsyncIterator[bytes]:
    while (part := await asyncio.to_thread(next, parts, None)) is not None:
        yield part


@router.get("/events", auth=signed_in, include_in_schema=False)
async def events(request: PersonRequest) -> StreamingHttpResponse:
    """Live progress of the person's deliveries (server-sent events)."""
    stream = hub().open(request.auth.pk, request.session.session_key or "")
    response = StreamingHttpResponse(
        delivery_events(request.auth, stream), content_type="text/event-stream"
    )  # fmt: skip
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response
