"""Messages about showings. Nothing is sent from here: they are written to the outbox; whoever runs the server sends them on."""

from __future__ import annotations

import logging

from django.conf import settings
from django.core.mail import EmailMessage
from django.utils import timezone

from showings.models import Showing, ShownPicture

log = logging.getLogger(__name__)


def send_link(showing: Showing, address: str) -> None:
    """The link, to the client."""
    if not showing.email:
        return
    owner = showing.job.owner.get_full_name() or showing.job.owner.get_username()
    again = f" This is round {showing.round}." if showing.round > 1 else ""
    asked = " You will be asked for the passphrase that you were given." if showing.passphrase else ""
    until = timezone.localtime(showing.expires).strftime("%d %B %Y")
    _write(
        showing.email,
        f"{showing.title}: pictures to look at",
        f"{owner} shows you “{showing.title}”.{again}\n\n{showing.words}\n\n{address}\n\n"
        f"The link opens this showing and nothing else, until {until}.{asked}\n",
    )


def tell_owner(row: ShownPicture, subject: str, words: str) -> None:
    """What the client did, to the person whose job it is; where no address is known, the application alone tells it."""
    owner = row.showing.job.owner
    if owner.email:
        _write(owner.email, f"{row.showing.title}: {subject}", f"{subject}.\n\n{words}\n")


def _write(to: str, subject: str, body: str) -> None:
    # A heading of a message is one line.
    message = EmailMessage(" ".join(subject.split()), body, settings.DEFAULT_FROM_EMAIL, [to])
    try:
        message.send()
    except OSError:
        # What was done stands; a message that cannot be written must not undo it.
        log.exception("the outbox cannot be written to")
