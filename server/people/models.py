from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import models

from people.defaults import Defaults


class Person(AbstractUser):
    """Someone who signs in; jobs belong to a person."""

    #: people.defaults.Defaults, as far as they were changed.
    own_defaults = models.JSONField(default=dict, blank=True)

    @property
    def defaults(self) -> Defaults:
        return Defaults.model_validate(self.own_defaults)
