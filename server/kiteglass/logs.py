"""What logs must not hold: the part of a showing's link that opens it."""

from __future__ import annotations

import logging
import re

#: The id, which may be told, and the signature behind it.
_LINK = re.compile(r"(?<=/shown/)([0-9a-f]{32})[0-9a-f]+")


def without_links(text: str) -> str:
    """
    >>> without_links("/shown/" + 32 * "a" + 40 * "b" + "/pdf")
    '/shown/aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa/pdf'
    """
    return _LINK.sub(r"\1", text)


class WithoutLinks(logging.Filter):
    """For handlers: lines pass, the links in them do not."""

    def filter(self, record: logging.LogRecord) -> bool:
        line = record.getMessage()
        if (told := without_links(line)) != line:
            record.msg, record.args = told, ()
        return True
