from django.contrib.auth.models import AbstractUser


class Person(AbstractUser):
    """Someone who signs in; jobs belong to a person."""
