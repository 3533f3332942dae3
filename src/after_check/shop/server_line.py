"""A connection to PostgreSQL that does not wait for ever.

A line that stalls takes in what is said and gives nothing back; neither the driver nor the server's own limit of time
(statement_timeout) ends that. Here every wait has an end, after which the line is cut and the server is as one that is
away. (psycopg 3, "Connection classes": `wait` consumes every operation of a connection.)
"""

from __future__ import annotations

import time
from typing import Any

import psycopg

ANSWER_SECONDS = 12.0
"""A little longer than the server gives a statement, so that its own words come first."""
PATIENT_SECONDS = 90.0
"""For what changes the tables: other benches may be waited for, and much may be copied."""


class ServerLine(psycopg.Connection[Any]):
    """A connection of which no wait is longer than `answer_seconds`."""

    answer_seconds = 0.0
    """0: the usual limit."""

    def wait(self, gen: Any, interval: float = 0.1, timeout: float | None = None) -> Any:
        """Wait for an operation. Raises psycopg.OperationalError for one that is not answered, and closes the line."""
        limit = self.answer_seconds or ANSWER_SECONDS
        began = time.monotonic()
        try:
            return super().wait(gen, interval, limit if timeout is None else timeout)
        except psycopg.Error:
            if timeout is None and time.monotonic() - began >= limit:
                self.close()
                raise psycopg.OperationalError(f"no answer within {limit:.0f} s") from None
            raise


def connect(words: tuple[Any, ...], named: dict[str, Any]) -> ServerLine:
    """Connect; a half-open line is noticed by the system's own probes as well."""
    return ServerLine.connect(
        *words,
        keepalives_idle=5,
        keepalives_interval=2,
        keepalives_count=3,
        tcp_user_timeout=10_000,
        **named,
    )
