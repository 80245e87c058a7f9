"""Ordering a delivery: a row that keeps the steps as they are now, and a place in the queue."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.db import IntegrityError, transaction
from django.utils import timezone

from common.errors import Conflict, Refused
from deliveries.models import Delivery, State
from deliveries.names import free_name
from deliveries.queue import enqueue, last_position
from jobs.orders import PrintOrder
from kitecore.delivery.encode import Encoder, encoder_for
from kitecore.delivery.spec import OutputSpec
from kitecore.pipeline.geometry import Size
from kitecore.steps import Enlarge
from kitecore.steps.enlarge import ByPrint
from kitecore.takes.plan import Plan
from people.name_template import check_template, filled
from pictures.models import Picture
from rendering.speed import seconds_for
from showings.models import approval_of
from takes.models import Take


def name_of(take: Take, resolved: Plan, spec: OutputSpec, typed: str = "", output: str = "") -> str:
    """A name made from what was typed, or else from the owner's template; words in braces are filled in.

    A template that says nothing of a saved ``output`` has its name behind it. Raises Refused for words that are not known.
    """
    template = typed or take.picture.job.owner.defaults.name
    if typed:
        check_template(typed)
    enlarging = next((step for step in resolved.steps if isinstance(step, Enlarge)), None)
    done = [step.kind for step in resolved.steps if step.did()]
    size = spec.final_size(resolved.size, take.picture.facts["ppi"])
    words = {
        "picture": Path(take.picture.name).stem, "job": take.picture.job.title, "take": take.name,
        "steps": "-".join(done), "engine": enlarging.engine if enlarging else "",
        "factor": f"{resolved.scale:.3g}x" if enlarging else "",
        "width": str(size.width), "height": str(size.height),
        "ppi": f"{spec.ppi:g}" if spec.ppi else "", "output": output, "date": timezone.localdate().isoformat(),
    }  # fmt: skip
    return filled(template if "{output}" in template or typed else f"{template} {{output}}", words)


def fitted_to(picture: Picture, resolved: Plan, spec: OutputSpec) -> OutputSpec:
    """The spec for one picture: without ppi of its own, what it is printed with is its tag, or else what was ordered."""
    if spec.ppi is not None:
        return spec
    targets = [step.target for step in resolved.steps if isinstance(step, Enlarge)]
    if targets and isinstance(targets[-1], ByPrint):
        return spec.model_copy(update={"ppi": targets[-1].ppi})
    ordered = picture.job.order
    return spec.model_copy(update={"ppi": PrintOrder.model_validate(ordered).ppi}) if ordered else spec


def check_spec(spec: OutputSpec, picture: Picture, size: Size) -> Encoder:
    """The encoder of a file of ``size`` of a picture. Raises a KiteError if its format cannot hold that."""
    encoder = encoder_for(spec)
    if encoder.of_raws and picture.facts.get("raw") is None:
        raise Refused(f"{picture.name} is no camera raw: it cannot become a linear DNG. Deliver it as TIFF.")
    encoder.check(size)
    return encoder


def order_delivery(
    take: Take, spec: OutputSpec, name: str = "", batch_id: uuid.UUID | None = None, after_approval: bool = False
) -> Delivery:
    """Order a file from a take as it is now, last in the queue; later changes of the take do not touch it.

    ``after_approval`` has it wait there until the client approves of these very steps, unless that has been done.
    Raises a KiteError if the take was made elsewhere or cannot be done, or the format cannot hold the result.
    """
    if take.made_elsewhere:
        raise Refused(f"Take {take.name} was made elsewhere and is here to be compared; its file is with you already.")
    resolved = take.plan()
    size = spec.final_size(resolved.size, take.picture.facts["ppi"])
    check_spec(spec, take.picture, size)
    job = take.picture.job
    wanted = name or name_of(take, resolved, spec)
    waits = after_approval and approval_of(take.picture, resolved.chain) is None
    # Two orders at the same moment may find the same name free; the later one looks again.
    for _ in range(20):
        try:
            with transaction.atomic():
                delivery = Delivery.objects.create(
                    job=job, picture=take.picture, take_name=take.name, name=free_name(job, wanted, spec.format),
                    steps=take.state.steps if take.state else [], spec=spec.model_dump(mode="json"),
                    width=size.width, height=size.height, work=resolved.work,
                    expected_seconds=seconds_for(resolved), position=last_position(),
                    batch_id=batch_id, awaits_approval=waits, state=State.PAUSED if waits else State.QUEUED,
                )  # fmt: skip
                if not waits:
                    enqueue(delivery)
                job.save(update_fields=["modified"])
            return delivery
        except IntegrityError:
            continue
    raise Conflict("Too many deliveries of this name are being ordered at once; try again.")


def order_panels(take: Take, spec: OutputSpec, name: str = "", after_approval: bool = False) -> list[Delivery]:
    """Order every panel of a layout as a file of its own, all of them or none; raises what :func:`order_delivery` does."""
    if spec.layout is None or spec.layout.panels == 1:
        return [order_delivery(take, spec, name, after_approval=after_approval)]
    count = spec.layout.panels
    base = name or name_of(take, take.plan(), spec)
    with transaction.atomic():
        return [
            order_delivery(
                take, spec.model_copy(update={"layout": spec.layout.model_copy(update={"panel": panel})}),
                f"{base}, panel {panel} of {count}", after_approval=after_approval,
            )
            for panel in range(1, count + 1)
        ]  # fmt: skip
