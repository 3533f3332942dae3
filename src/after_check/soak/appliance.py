"""The memory test of an appliance that tests itself: started over its own small HTTP service, and watched.

The appliance restarts into its test and is away meanwhile. What it says afterwards is its own word: nothing of it is
measured here, and the record says so.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import httpx

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import clean
from after_check.domain.quantities import MIB
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.files.errors import SourceError
from after_check.files.json_values import text, whole_number
from after_check.files.limited_http import Limit, LimitedTransport, OverLimitError
from after_check.files.network_address import parse_network_address
from after_check.files.strict_json import parse_json
from after_check.host.processes import this_process

LONGEST_AWAY_SECONDS = 15 * 60.0
ASK_SECONDS = 1.0
_KEEP_SECONDS = 3.0
_ANSWER_SECONDS = 10.0
_LARGEST_ANSWER_BYTES = 64 << 10
_STEP = "its own memory test"


class NoServiceError(AfterCheckError):
    """The appliance does not answer, or not as one; the message says what and where."""


class ApplianceSoak:
    """A soak that an appliance runs on itself."""

    def __init__(
        self,
        address: str,
        keep: Callable[[SoakRecord], object] = lambda record: None,
        length: str = "short",
        longest_away_seconds: float = LONGEST_AWAY_SECONDS,
    ) -> None:
        try:
            at = parse_network_address(address, "http", "http://HOST:PORT")
        except SourceError as error:
            raise NoServiceError(f"this is no address of an appliance: {error}") from None
        if at.user:
            raise NoServiceError("an address with a name in it is not used: an appliance's own test asks for none")
        self._place = at.place
        self._address = f"http://{at.place}{at.path}"
        self._keep = keep
        self._length = length
        self._longest_away = longest_away_seconds
        self._limit = Limit(_ANSWER_SECONDS, _LARGEST_ANSWER_BYTES)
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._began = time.monotonic()
        self._kept_at = 0.0
        begun_at = datetime.now(UTC).replace(microsecond=0)
        self._record = SoakRecord(length, SoakState.RUNNING, begun_at, steps=(_STEP,), own_word_of=at.place, process=this_process())

    @property
    def record(self) -> SoakRecord:
        """How it stands, frozen."""
        with self._lock:
            return self._record

    def pause(self) -> None:
        """An appliance cannot be paused; the record says so."""
        self._remark("this appliance's own test cannot be paused; it can be stopped")

    def go_on(self) -> None:
        """Nothing to do: it was not paused."""

    def stop(self) -> None:
        """Ask the appliance to stop its test."""
        self._stop.set()

    def run(self) -> SoakRecord:
        """Start the test, wait until the appliance is back, and watch it to the end."""
        try:
            with httpx.Client(transport=LimitedTransport(self._limit), timeout=5.0, follow_redirects=False, trust_env=False) as client:
                self._start(client)
                self._watch(client)
        except NoServiceError as problem:
            self._remark(str(problem))
            self._change(state=SoakState.FAILED)
        self._save(always=True)
        return self.record

    def _start(self, client: httpx.Client) -> None:
        about = self._ask(client, "GET", "/")
        model, serial = text(about.get("model")) or "an appliance", text(about.get("serial"))
        size_mib = whole_number(about.get("memoryMiB"), 1 << 30)
        name = f"{model} ({serial})" if serial else model
        covered = Covered(installed_bytes=size_mib * MIB) if size_mib else Covered()
        self._change(own_word_of=f"{name} at {self._place}", covered=covered)
        self._ask(client, "POST", "/memory-test", {"length": self._length})
        self._remark("the appliance restarts into its own test; it is away meanwhile")
        self._save(always=True)

    def _watch(self, client: httpx.Client) -> None:
        """Ask again and again; silence is normal for a while, as the appliance restarts.

        Only what is said from the first "running" on is of this test: an earlier "done" is of an earlier one.
        """
        last_word = time.monotonic()
        has_run = False
        while True:
            time.sleep(ASK_SECONDS)
            silent = time.monotonic() - last_word
            try:
                if self._stop.is_set():
                    self._ask(client, "POST", "/memory-test", {"length": "stop"})
                said = self._ask(client, "GET", "/memory-test")
            except NoServiceError:
                if silent > self._longest_away or self._stop.is_set():
                    raise NoServiceError(
                        f"the appliance at {self._address} has not answered for {silent:.0f} s after it was told to restart: "
                        "look at its lights, and whether it starts with the old modules"
                    ) from None
                self._change(seconds=round(time.monotonic() - self._began, 1))
                self._save()
                continue
            state = text(said.get("state"))
            has_run = has_run or state == "running"
            if not has_run:
                if self._stop.is_set():
                    self._change(state=SoakState.STOPPED)
                    return
                if silent > self._longest_away:
                    raise NoServiceError(
                        f"the appliance at {self._address} says {state or 'nothing'} of its test and never said that it runs: "
                        "that is no result of this test"
                    )
                continue
            last_word = time.monotonic()
            self._take(said)
            if state == "done":
                self._end(said)
                return
            if state == "stopped":
                self._change(state=SoakState.STOPPED, seconds_left=None)
                return
            if state != "running":
                raise NoServiceError(f"the appliance at {self._address} says of its test: {state or 'nothing that can be read'}")

    def _take(self, said: dict[str, Any]) -> None:
        """Take over how far the appliance says its test is, as far as it makes sense."""
        percent = _percent(said.get("percent"))
        errors, minutes = _count(said.get("errors"), 1 << 40) or 0, _count(said.get("minutes"), 1 << 20) or 0
        if percent is None and said.get("percent") is not None:
            self._remark(f"the appliance says it is {clean(str(said.get('percent')), 20)} per cent done, which cannot be")
        seconds = round(time.monotonic() - self._began, 1)
        self._change(
            step_share=(percent or 0) / 100,
            errors=max(errors, self.record.errors),
            seconds=max(seconds, minutes * 60.0),
            seconds_left=seconds * (100 - percent) / percent if percent and percent < 100 else None,
        )
        self._save()

    def _end(self, said: dict[str, Any]) -> None:
        """Take over the result. Raises NoServiceError where it does not say how many errors there were: that is no pass."""
        if _count(said.get("errors"), 1 << 40) is None:
            told = clean(str(said.get("errors")), 20) if said.get("errors") is not None else "nothing"
            raise NoServiceError(f"the appliance at {self._address} says that its test is done, and of errors {told}: not a result")
        covered, installed = _percent(said.get("coveredPercent")), self.record.covered.installed_bytes
        if covered is None:
            self._remark("the appliance does not say how much of its memory it tested")
        self._change(
            state=SoakState.FINISHED,
            steps_done=1,
            seconds_left=None,
            fully_swept_bytes=round(installed * covered / 100) if installed and covered is not None else 0,
        )

    def _ask(self, client: httpx.Client, method: str, path: str, body: dict[str, str] | None = None) -> dict[str, Any]:
        self._limit.begin()
        try:
            answer = client.request(method, self._address + path, json=body)
            status, document = answer.status_code, parse_json(answer.content)
        except OverLimitError as over:
            raise NoServiceError(f"the appliance at {self._address} does not answer as it should: {over}") from None
        except (httpx.HTTPError, httpx.InvalidURL) as problem:
            raise NoServiceError(
                f"the appliance at {self._address} does not answer ({type(problem).__name__}): is it on, and its address right?"
            ) from None
        except (ValueError, RecursionError):
            raise NoServiceError(f"{self._address} answers, but not as an appliance does (no JSON)") from None
        if status >= 400 or not isinstance(document, dict):
            raise NoServiceError(f"the appliance at {self._address} refused {method} {path} (status {status})")
        return document

    def _change(self, **changes: Any) -> None:
        with self._lock:
            self._record = replace(self._record, **changes)

    def _remark(self, words: str) -> None:
        if words not in self.record.remarks:
            self._change(remarks=(*self.record.remarks, words))

    def _save(self, always: bool = False) -> None:
        if not always and time.monotonic() - self._kept_at < _KEEP_SECONDS:
            return
        self._kept_at = time.monotonic()
        try:
            self._keep(self.record)
        except Exception as problem:  # Watching goes on, whatever keeps the record from being written.
            self._remark(f"the record could not be written and is kept in memory only: {problem}")


def _count(value: Any, most: int) -> int | None:
    """Return a count from 0; None for anything else, `true` and a text that looks like a number among it."""
    return value if isinstance(value, int) and not isinstance(value, bool) and 0 <= value <= most else None


def _percent(value: Any) -> int | None:
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= 100:
        return None
    return int(value)
