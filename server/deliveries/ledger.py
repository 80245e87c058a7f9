"""The ledger: what was done to every file of a job, for the client who asks what was invented; a page and JSON."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.template.loader import render_to_string
from django.utils import timezone
from pydantic import BaseModel, Field

from common.background import State
from deliveries.models import Delivery
from jobs.models import Job
from kitecore.delivery.encode import encoder_for
from kitecore.errors import KiteError
from kitecore.steps import AnyStep
from kitecore.steps.base import EngineUse
from kitecore.takes.plan import plan
from reports.models import Report
from showings.models import approval_of


class EngineUsed(BaseModel):
    engine: str
    kind: str
    version: str | None = Field(
        description="Beginning of the SHA-256 of its network; null if it is on the shelf no more."
    )


class StepDone(BaseModel):
    kind: str
    did: str = Field(description="In plain words.")
    settings: dict[str, Any]
    engines: list[EngineUsed]


class Departure(BaseModel):
    """How far the result departs from its source by one measure of the fidelity report."""

    measure: str
    value: float
    unit: str
    word: str
    says: str


class Approval(BaseModel):
    """The client's word that this is right."""

    name: str
    words: str
    given: datetime
    showing: str
    round: int


class Entry(BaseModel):
    """One delivered file."""

    file: str
    sha256: str
    bytes: int
    width: int
    height: int
    written: dict[str, Any] = Field(description="The output spec.")
    delivered: datetime | None
    source: str
    source_sha256: str
    source_width: int
    source_height: int
    source_colour: str = Field(description="Colour and bits of its samples, and its profile.")
    source_damaged: str | None = Field(default=None, description="How the source's file is damaged.")
    read: list[str] = Field(description="What was changed when the source was read, in plain words.")
    take: str
    steps: list[StepDone]
    output: list[str] = Field(description="What the way it was written changed, in plain words.")
    measured: list[Departure] | None = Field(description="By the fidelity report; null where it is not made.")
    unmeasured: str | None = Field(default=None, description="Why it is not.")
    approved: Approval | None = Field(default=None, description="By the client, of exactly these steps.")


class Ledger(BaseModel):
    job: str
    client: str
    made: datetime
    files: list[Entry]


def ledger_of(job: Job, deliveries: list[Delivery]) -> Ledger:
    """The ledger of finished deliveries of a job."""
    return Ledger(
        job=job.title, client=job.client, made=timezone.now(), files=[_entry(delivery) for delivery in deliveries]
    )  # fmt: skip


def _entry(delivery: Delivery) -> Entry:
    picture, facts = delivery.picture, delivery.picture.facts
    measured, unmeasured = _measured(delivery)
    return Entry(
        file=delivery.name, sha256=delivery.sha256, bytes=delivery.bytes or 0, width=delivery.width,
        height=delivery.height, written=delivery.spec, delivered=delivery.finished, source=picture.name,
        source_sha256=picture.original_id, source_width=picture.size.width, source_height=picture.size.height,
        source_colour=f"{facts['bits']} bit {facts['colour']}, {facts['profile'] or 'no profile, taken as sRGB'}",
        source_damaged=facts.get("damaged"), read=[_sentence(note) for note in facts.get("notes", [])],
        take=delivery.take_name, steps=[_done(step) for step in delivery.core_take.steps if step.on and step.did()],
        output=_output(delivery), measured=measured, unmeasured=unmeasured, approved=_approved(delivery),
    )  # fmt: skip


def _done(step: AnyStep) -> StepDone:
    return StepDone(
        kind=step.kind, did=step.sentence(), settings=step.model_dump(mode="json", exclude={"kind", "on"}, exclude_none=True),
        engines=[_used(use) for use in step.engines_used()],
    )  # fmt: skip


def _used(use: EngineUse) -> EngineUsed:
    try:
        engine = use.engine()
    except KiteError:
        return EngineUsed(engine=use.name, kind=use.kind, version=None)
    network = engine.manifest.network
    version = network.sha256[:16] if network else engine.fingerprint
    return EngineUsed(engine=use.name, kind=use.kind, version=version)


def _sentence(text: str) -> str:
    """Without its full stop, which the page sets."""
    return text.strip().removesuffix(".")


def _output(delivery: Delivery) -> list[str]:
    try:
        size = plan(delivery.core_take, delivery.picture.size).size
    except KiteError:
        return []
    facts = delivery.picture.facts
    return encoder_for(delivery.core_spec).did(size, facts["profile"], beyond=_beyond(facts))


def _beyond(facts: dict[str, Any]) -> bool:
    """Whether the source has values below black or above white."""
    return (facts.get("lowest") or 0) < 0 or (facts.get("highest") or 0) > 1


def _approved(delivery: Delivery) -> Approval | None:
    try:
        answer = approval_of(delivery.picture, plan(delivery.core_take, delivery.picture.size).chain)
    except KiteError:
        return None
    if answer is None:
        return None
    showing = answer.shown.showing
    return Approval(
        name=answer.name, words=answer.words, given=answer.created, showing=showing.title, round=showing.round
    )


def _measured(delivery: Delivery) -> tuple[list[Departure] | None, str | None]:
    """What the fidelity report of these very steps found, or why there is none."""
    try:
        chain = plan(delivery.core_take, delivery.picture.size).chain
    except KiteError:
        return None, "It cannot be measured any more: an engine that was used is not on the shelf."
    report = Report.objects.filter(picture=delivery.picture, chain=chain).first()
    if report is None or report.state == State.FAILED:
        return None, report.message if report else "It has not been measured."
    if not report.found:
        return None, "It is being measured; take the bundle again in a moment."
    return [
        Departure(
            measure=one["title"], value=round(one["value"], 3), unit=one["unit"], word=one["word"], says=one["says"]
        )
        for one in report.found["findings"]
    ], None


def page(ledger: Ledger) -> str:
    """The ledger as one HTML page that needs nothing else."""
    files = [
        entry.model_dump()
        | {
            "told": [_told(step) for step in entry.steps],
            "read": [_begun(part) for part in entry.read],
            "output": [_begun(part) for part in entry.output],
        }
        for entry in ledger.files
    ]
    return render_to_string("ledger.html", {"ledger": ledger, "files": files})


def _told(step: StepDone) -> str:
    """What a step did, and the weights it was done with, in a line."""
    versions = ", ".join(f"{one.engine} {one.version or 'is not on the shelf any more'}" for one in step.engines)
    return f"{_begun(step.did)}{f' ({versions})' if versions else ''}"


def _begun(text: str) -> str:
    return text[:1].upper() + text[1:]
