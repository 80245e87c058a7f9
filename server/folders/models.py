from __future__ import annotations

import uuid

from django.db import models

from batches.models import Batch
from batches.treatment import Treatment
from cards.models import Card
from common.soft_delete import SoftDeleted
from deliveries.models import Delivery
from jobs.models import Job
from kitecore.delivery.spec import OutputSpec
from people.models import Person
from pictures.models import Picture


class HandOffQuerySet(models.QuerySet["HandOff"]):
    def of(self, person: Person) -> HandOffQuerySet:
        return self.filter(job__owner=person, job__removed=None, removed=None).select_related("job", "card")


class HandOff(SoftDeleted):
    """A folder whose files become pictures of a job, and one where what is delivered of them is laid down."""

    class Treat(models.TextChoices):
        NOTHING = "nothing"
        SUGGESTION = "suggestion"
        CARD = "card"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="hand_offs")
    #: Absolute, inside one of settings.FOLDERS.
    inbox = models.CharField(max_length=1000)
    outbox = models.CharField(max_length=1000)
    #: Whether files that come later are taken in too.
    watched = models.BooleanField(default=True)
    #: Whether all that was there to begin with has been looked at.
    looked = models.BooleanField(default=False)
    #: What is done to a picture at once; nothing: it waits to be worked on.
    treat = models.CharField(max_length=10, choices=Treat, default=Treat.NOTHING)
    card = models.ForeignKey(Card, null=True, on_delete=models.PROTECT, related_name="+")
    strength = models.FloatField(default=100)
    #: kitecore.delivery.spec.OutputSpec of what is delivered at once.
    spec = models.JSONField(default=dict)
    batch = models.ForeignKey(Batch, null=True, on_delete=models.PROTECT, related_name="+")
    #: Why it cannot be looked into at present.
    problem = models.TextField(blank=True, default="")
    created = models.DateTimeField(auto_now_add=True)

    objects = HandOffQuerySet.as_manager()

    class Meta:
        ordering = ["created"]
        constraints = [
            models.UniqueConstraint(
                fields=["inbox"], condition=models.Q(removed=None, watched=True), name="one_look_into_an_inbox"
            )
        ]

    def __str__(self) -> str:
        return self.inbox

    @property
    def treatment(self) -> Treatment | None:
        if self.treat == self.Treat.NOTHING:
            return None
        return Treatment("card" if self.treat == self.Treat.CARD else "suggestion", self.card, self.strength)

    @property
    def core_spec(self) -> OutputSpec:
        return OutputSpec.model_validate(self.spec)


class Arrival(models.Model):
    """A file that was seen in an inbox, and what became of it. A file that changes later is another one."""

    hand_off = models.ForeignKey(HandOff, on_delete=models.CASCADE, related_name="arrivals")
    #: Below the inbox, with folders.
    name = models.CharField(max_length=1000)
    bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()
    picture = models.ForeignKey(Picture, null=True, on_delete=models.CASCADE, related_name="arrivals")
    #: Whether what is done to it at once was ordered, or need not be.
    ordered = models.BooleanField(default=False)
    problem = models.TextField(blank=True, default="")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created"]
        constraints = [
            models.UniqueConstraint(fields=["hand_off", "name", "bytes", "changed_ns"], name="one_arrival_of_a_file")
        ]

    def __str__(self) -> str:
        return self.name


class Return(models.Model):
    """A delivered file that was laid into the outbox of the folder its picture came from."""

    arrival = models.ForeignKey(Arrival, on_delete=models.CASCADE, related_name="returns")
    delivery = models.ForeignKey(Delivery, on_delete=models.CASCADE, related_name="returns")
    #: Absolute.
    path = models.CharField(max_length=1200)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["arrival", "delivery"], name="returned_once")]

    def __str__(self) -> str:
        return self.path
