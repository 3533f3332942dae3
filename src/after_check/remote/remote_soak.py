"""A memory test that another machine runs on itself with After Check, followed over SSH: the same test, the other's memory."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from after_check.domain.identity import CameBy, MachineIdentity
from after_check.domain.soak import SoakRecord, SoakState
from after_check.files.errors import SourceError
from after_check.host.processes import this_process
from after_check.remote.remote_run import Beginning, RemoteRun
from after_check.remote.target import BringNeededError
from after_check.soak.soak_json import record_from_json
from after_check.sources.trust import PasswordNeededError, TrustBrokenError, TrustNeededError

_KEEP_SECONDS = 3.0
WHAT = "soak"


class RemoteSoak:
    """A soak at an address; `words` are the options of the command there. What goes wrong later is in the record, not raised."""

    def __init__(
        self,
        address: str,
        words: tuple[str, ...] = (),
        keep: Callable[[SoakRecord], object] = lambda record: None,
        beginning: Beginning = Beginning(),  # noqa: B008 - frozen
        plan: str = "short",
    ) -> None:
        command = ("soak", *words, "--record", "record.json", "--json")
        self._run = RemoteRun(address, WHAT, command, self._heard, beginning, self._told)
        self._keep = keep
        self._lock = threading.Lock()
        self._kept_at = 0.0
        self._remarks: list[str] = []
        self.doing = "connecting"
        begun_at = datetime.now(UTC).replace(microsecond=0)
        self._record = SoakRecord(plan, SoakState.RUNNING, begun_at, process=this_process())

    @property
    def record(self) -> SoakRecord:
        """How it stands, frozen; what is being done before the test there begins is among its remarks."""
        with self._lock:
            record = self._record
        return replace(record, remarks=(*record.remarks, self.doing)) if self.doing and not record.state.is_over else record

    def pause(self) -> None:
        """Pause it there."""
        self._run.pause()

    def go_on(self) -> None:
        """Let it go on there."""
        self._run.go_on()

    def stop(self) -> None:
        """Stop it there; what it found is fetched."""
        self._run.stop()

    def run(self) -> SoakRecord:
        """Run it to its end. Raises only what a person has to decide (`NeedsPersonError`)."""
        try:
            looked = self._run.run()
        except (TrustNeededError, TrustBrokenError, PasswordNeededError, BringNeededError):
            raise
        except SourceError as problem:
            self._remark(str(problem))
            state = SoakState.INTERRUPTED if self.record.steps else SoakState.FAILED
            self._change(state=state, seconds_left=None)
        else:
            if not self.record.state.is_over:
                words = looked.said or "it ended without a word"
                self._remark(f"the test there ended early: {words}")
                self._change(state=SoakState.INTERRUPTED if self.record.steps else SoakState.FAILED, seconds_left=None)
        self._save(always=True)
        return self.record

    def _heard(self, data: bytes) -> None:
        """Take over a record from there; one that is cut short is waited for."""
        try:
            found = record_from_json(data)
        except ValueError:
            return
        machine = replace(found.machine or MachineIdentity(), way=CameBy.REMOTE)
        # Whoever follows it here answers for it: where that one is killed, the run counts as interrupted until it is followed again.
        with self._lock:
            remarks = tuple(dict.fromkeys((*found.remarks, *self._remarks)))
            self._record = replace(found, machine=machine, process=this_process(), remarks=remarks)
        self.doing = ""
        self._save()

    def _told(self, words: str) -> None:
        self.doing = words
        if words.startswith("the line is cut"):
            self._remark("the line was cut meanwhile; the test went on there")

    def _change(self, **changes: Any) -> None:
        with self._lock:
            self._record = replace(self._record, **changes)

    def _remark(self, words: str) -> None:
        if words not in self._remarks:
            self._remarks.append(words)
            with self._lock:
                self._record = replace(self._record, remarks=(*self._record.remarks, words))

    def _save(self, always: bool = False) -> None:
        if not always and time.monotonic() - self._kept_at < _KEEP_SECONDS and not self.record.state.is_over:
            return
        self._kept_at = time.monotonic()
        try:
            self._keep(self.record)
        except Exception as problem:  # Following goes on, whatever keeps the record from being written.
            self._remark(f"the record could not be written and is kept in memory only: {problem}")
