"""Commands that run on other machines over SSH and are followed here: `--on ssh://USER@HOST`, once or many times."""

from __future__ import annotations

import json
import sys
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime
from typing import TypeVar

from after_check.benchmark.benchmark_json import benchmark_from_json
from after_check.benchmark.measurement_names import doing_words
from after_check.cli.access import AccessWords, ask_password, with_access
from after_check.cli.long_work import run_to_the_end
from after_check.cli.soak import (
    EXIT_CLEAN,
    EXIT_ERRORS,
    EXIT_NOT_COVERED,
    SoakWords,
    exit_code,
    print_soak,
    progress_line,
    result_words,
    size_asked,
)
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState
from after_check.domain.identity import CameBy, MachineIdentity
from after_check.domain.soak import SoakRecord
from after_check.files.errors import SourceError
from after_check.remote.remote_run import Beginning, RemoteRun
from after_check.remote.remote_soak import RemoteSoak
from after_check.remote.target import BringNeededError
from after_check.soak.soak_json import write_record
from after_check.sources.trust import Access

Result = TypeVar("Result")
_MOST_AT_ONCE = 16


def with_bringing(source: str, words: AccessWords, bring: bool, act: Callable[[Access, bool], Result]) -> Result:
    """Do what needs After Check at the other end; a person is asked before it is brought along."""
    try:
        return with_access(source, words, lambda access: act(access, bring))
    except BringNeededError as needed:
        if bring or not (sys.stdin.isatty() and sys.stderr.isatty()):
            raise
        print(f"{needed}\nBring it along? Type yes: ", end="", file=sys.stderr, flush=True)
        if sys.stdin.readline().strip().casefold() != "yes":
            raise
        return with_access(source, words, lambda access: act(access, True))


def soak_options(words: SoakWords) -> tuple[str, ...]:
    """Return what was asked of a soak, as the options of the command at the other end."""
    found: list[str] = ["--plan", words.plan]
    for option, values in (("--program", words.programs), ("--background", words.backgrounds)):
        for value in values:
            found += [option, value]
    for option, given in (
        ("--minutes", words.minutes),
        ("--within", words.within),
        ("--memory", words.memory),
        ("--reserve", words.reserve),
        ("--threads", words.threads),
    ):
        if given is not None:
            found += [option, str(given)]
    return tuple(found)


def soaks_on(addresses: tuple[str, ...], words: SoakWords, access: AccessWords, bring: bool) -> int:
    """Test the memory of machines at addresses, each by itself; returns 1 where one found errors, else 2 or 0."""
    wanted = size_asked(words.memory, "--memory")
    if len(addresses) == 1:
        record = _soak_on(addresses[0], words, access, bring)
        print_soak(record, words.as_json, wanted)
        return exit_code(record, wanted)
    many = _Many(addresses, words, access, bring)
    run_to_the_end(many, many.progress)
    codes: list[int] = []
    lines: list[dict[str, object]] = []
    for address in addresses:
        found = many.results.get(address)
        if isinstance(found, SoakRecord):
            codes.append(exit_code(found, wanted))
            said = f"{result_words(found, wanted)}; {found.errors:,} errors in {found.seconds:.0f} s"
        else:
            codes.append(EXIT_NOT_COVERED)
            said = f"not tested: {found or 'stopped'}"
        lines.append({"machine": address, "exit": codes[-1], "says": said})
    if words.as_json:
        print(json.dumps({"machines": lines}, indent=1, ensure_ascii=False))
    else:
        for line in lines:
            print(f"{line['machine']}: {line['says']}")
    return EXIT_ERRORS if EXIT_ERRORS in codes else EXIT_NOT_COVERED if EXIT_NOT_COVERED in codes else EXIT_CLEAN


def _soak_on(address: str, words: SoakWords, access: AccessWords, bring: bool) -> SoakRecord:
    def keep(record: SoakRecord) -> None:
        if words.record is not None:
            write_record(record, words.record)

    def act(given: Access, may_bring: bool) -> SoakRecord:
        soak = RemoteSoak(address, soak_options(words), keep, Beginning(given, may_bring, words.go_on), words.plan)
        run_to_the_end(soak, lambda: soak.doing or progress_line(soak.record))
        return soak.record

    return with_bringing(address, access, bring, act)


class _Many:
    """Soaks at many addresses at once; what a person would have to decide is said and not asked."""

    def __init__(self, addresses: tuple[str, ...], words: SoakWords, access: AccessWords, bring: bool) -> None:
        self._addresses, self._words, self._access, self._bring = addresses, words, access, bring
        self._soaks: dict[str, RemoteSoak] = {}
        self._stop = threading.Event()
        self.results: dict[str, SoakRecord | str] = {}

    def run(self) -> None:
        """Run them all."""
        password = None
        if self._access.ask_password:
            password = ask_password("all of them")
        with ThreadPoolExecutor(min(_MOST_AT_ONCE, len(self._addresses)), "machines") as pool:
            list(pool.map(lambda address: self._one(address, password), self._addresses))

    def _one(self, address: str, password: str | None) -> None:
        if self._stop.is_set():
            return
        key = str(self._access.key) if self._access.key else None
        access = Access(password=password, key_file=key, accepted_fingerprint=self._access.accept, jump=self._access.jump or "")
        soak = RemoteSoak(
            address, soak_options(self._words), beginning=Beginning(access, self._bring, self._words.go_on), plan=self._words.plan
        )
        self._soaks[address] = soak
        try:
            self.results[address] = soak.run()
        except SourceError as problem:
            self.results[address] = str(problem)

    def stop(self) -> None:
        """Stop them all."""
        self._stop.set()
        for soak in self._soaks.values():
            soak.stop()

    def progress(self) -> str:
        """Return how many are done, and how far the slowest is."""
        shares = [soak.record.share for address, soak in self._soaks.items() if address not in self.results]
        slowest = f", the slowest at {min(shares):.0%}" if shares else ""
        errors = sum(soak.record.errors for soak in self._soaks.values())
        return f"{len(self.results)} of {len(self._addresses)} machines done{slowest}, {errors:,} errors      "


def benchmark_on(address: str, short: bool, access: AccessWords, bring: bool, go_on: bool) -> BenchmarkRecord:
    """Measure at an address and return what was measured there. Raises SourceError."""
    last = BenchmarkRecord(_now())
    doing = "connecting"

    def heard(data: bytes) -> None:
        nonlocal last, doing
        try:
            found = benchmark_from_json(data)
        except ValueError:
            return
        last, doing = replace(found, machine=replace(found.machine or MachineIdentity(), way=CameBy.REMOTE)), ""

    def told(words: str) -> None:
        nonlocal doing
        doing = words

    def act(given: Access, may_bring: bool) -> str:
        command = ("benchmark", *(["--short"] if short else []), "--out", "record.json", "--json")
        run = RemoteRun(address, "benchmark", command, heard, Beginning(given, may_bring, go_on), told)
        said = ""

        class _Followed:
            def run(self) -> None:
                nonlocal said
                said = run.run().said

            def stop(self) -> None:
                run.stop()

        run_to_the_end(_Followed(), lambda: doing or f"{last.share:4.0%}  {doing_words(last.doing):<44}")
        return said

    said = with_bringing(address, access, bring, act)
    if last.state is BenchmarkState.RUNNING and not last.series:
        raise SourceError(f"it ended there without a result ({said or 'it said nothing'})", address)
    return last


def _now() -> datetime:
    return datetime.now(UTC).replace(microsecond=0)
