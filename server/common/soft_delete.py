"""What people take away is kept, so that it can be had back."""

from __future__ import annotations

from django.db import models
from django.utils import timezone


class SoftDeleted(models.Model):
    """A row that is put away instead of deleted. Whoever asks for what there is leaves out what has ``removed``."""

    removed = models.DateTimeField(null=True, blank=True)

    class Meta:
        abstract = True

    def soft_delete(self) -> None:
        self.removed = timezone.now()
        self.save()

    def restore(self) -> None:
        self.removed = None
        self.save()
