"""Ordering a delivery: a row that keeps the steps as they are now, and a place in the queue."""

from __future__ import annotations

from pathlib import Path

from django.db import IntegrityError, transaction

from deliveries.models import Delivery
from deliveries.names import free_name
from deliveries.tasks import order
from kitecore.geometry import Size
from kitecore.output import OutputSpec
from kitecore.take import plan
from kiteglass.errors import Conflict
from takes.models import Take


def default_name(take: Take, size: Size) -> str:
    """A name that tells the picture and the size."""
    return f"{Path(take.picture.name).stem} {size.width}x{size.height}"


def order_delivery(take: Take, spec: OutputSpec, name: str = "") -> Delivery:
    """Order a file from a take as it is now; later changes of the take do not touch it.

    Raises a KiteError if the take cannot be done or the format cannot hold the result.
    """
    resolved = plan(take.core, take.picture.size)
    spec.check(resolved.size)
    job = take.picture.job
    wanted = name or default_name(take, resolved.size)
    # Two orders at the same moment may find the same name free; the later one looks again.
    for _ in range(20):
        try:
            with transaction.atomic():
                delivery = Delivery.objects.create(
                    job=job, picture=take.picture, take_name=take.name, name=free_name(job, wanted, spec.format),
                    steps=take.state.steps if take.state else [], spec=spec.model_dump(mode="json"),
                    width=resolved.size.width, height=resolved.size.height, work=resolved.work,
                )  # fmt: skip
                order(delivery)
                job.save(update_fields=["modified"])
            return delivery
        except IntegrityError:
            continue
    raise Conflict("Too many deliveries of this name are being ordered at once; try again.")
