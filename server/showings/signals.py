"""What happens in showings, for those above that have to know."""

from django.dispatch import Signal

#: Told ``shown``, a :class:`~showings.models.ShownPicture`, and whether it was ``approved``.
answered = Signal()
