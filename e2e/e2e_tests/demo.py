"""One application with its demo for all tests of a run; before each of them its data are as they were at first."""

from __future__ import annotations

import atexit
import json
import time
from contextlib import suppress
from functools import cache
from http.cookiejar import CookieJar
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from urllib.request import HTTPCookieProcessor, Request, build_opener

import psycopg
from psycopg import sql

from launch.application import Application
from launch.cluster import free_port

#: What the workers have to do for the demo: read its pictures and write its delivery.
_SETTLED_SECONDS = 180
#: How often putting the rows back is tried anew when somebody else holds them.
_RESETS = 5
#: Whom the demo belongs to.
PERSON = {"name": "wren", "password": "tern-sands-1988"}


def wait_until_settled(database: psycopg.Connection[Any]) -> None:
    """Wait until the workers have nothing left to do."""
    until = time.monotonic() + _SETTLED_SECONDS
    waiting = "SELECT count(*) FROM procrastinate_jobs WHERE status IN ('todo', 'doing')"
    while database.execute(waiting).fetchone() != (0,):
        if time.monotonic() > until:
            raise AssertionError(f"The workers have not done what they have to within {_SETTLED_SECONDS} s.")
        time.sleep(0.2)


class DemoApplication:
    """The started application and a copy of the rows of every table, but for those of the workers' queue."""

    def __init__(self, home: Path) -> None:
        self.home = home
        self.application = Application(home)
        atexit.register(self.application.stop)
        self.application.start(free_port(), demo=True)
        self.address = self.application.address
        self._database = psycopg.connect(self.application.cluster.url, autocommit=True)
        atexit.register(self._database.close)
        #: Of somebody who has signed in, by name.
        self.cookies = self._signed_in()
        wait_until_settled(self._database)
        self._rows = {table: self._copied(table) for table in self._tables()}

    def _signed_in(self) -> dict[str, str]:
        jar = CookieJar()
        browser, session = build_opener(HTTPCookieProcessor(jar)), f"{self.address}/api/session"
        with browser.open(session) as answer:
            headers = {"Content-Type": "application/json", "X-CSRFToken": json.load(answer)["csrf"]}
        browser.open(Request(session, json.dumps(PERSON).encode(), headers)).close()
        return {cookie.name: cookie.value or "" for cookie in jar}

    def _tables(self) -> list[str]:
        found = self._database.execute(
            "SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename !~ '^procrastinate_|migrations$'"
        )
        return [str(name) for (name,) in found]

    def _copied(self, table: str) -> bytes:
        with self._database.cursor().copy(sql.SQL("COPY {} TO STDOUT").format(sql.Identifier(table))) as copy:
            return b"".join(bytes(block) for block in copy)

    def reset(self) -> None:
        """Put every row back; whoever has signed in since no longer is.

        What the page of the test before asked for last may still be running,
        and hold a table while it waits for another that is already held here:
        then this is the one that lets go, and tries again.
        """
        for _ in range(_RESETS):
            with suppress(psycopg.errors.DeadlockDetected):
                return self._put_back()
        return self._put_back()

    def _put_back(self) -> None:
        with self._database.transaction(), self._database.cursor() as cursor:
            # Rows go in without regard to which table refers to which.
            cursor.execute("SET LOCAL session_replication_role = replica")
            names = sql.SQL(", ").join(map(sql.Identifier, self._rows))
            cursor.execute(sql.SQL("TRUNCATE {}").format(names))
            for table, rows in self._rows.items():
                with cursor.copy(sql.SQL("COPY {} FROM STDIN").format(sql.Identifier(table))) as copy:
                    copy.write(rows)


@cache
def demo_application() -> DemoApplication:
    folder = TemporaryDirectory()
    atexit.register(folder.cleanup)
    Path(folder.name).chmod(0o755)
    return DemoApplication(Path(folder.name))
