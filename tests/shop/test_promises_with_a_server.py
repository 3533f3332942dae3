"""Two benches on one server that goes away and comes back, in whatever order: what was confirmed is there, once, and sound.

A machine of states (hypothesis) over a real PostgreSQL server: readings, tests, promises, jobs that are begun without the
server, programs that are killed. What the store takes or keeps aside counts as confirmed; words that it refuses do not.
"""

from __future__ import annotations

import os
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    Bundle,
    RuleBasedStateMachine,
    initialize,
    invariant,
    multiple,
    precondition,
    rule,
    run_state_machine_as_test,
)

from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.shop.checking import check_shop
from after_check.shop.errors import KeptAsideError, NotAnsweringError, ShopError
from after_check.shop.opening import open_or_go_on, send_waiting
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.helpers.needs import needs
from tests.postgres import tools

pytestmark = needs(tools() is not None, "PostgreSQL")
BEGUN = datetime(2026, 11, 2, 9, tzinfo=UTC)
BENCHES = ("left", "right")


class TwoBenchesOnOneServer(RuleBasedStateMachine):
    """`confirmed` is what either bench was told to be kept, by the job's identity; `promises` what may stand there."""

    jobs = Bundle("jobs")
    server, folder, counter = None, None, 0

    @initialize()
    def open(self):
        type(self).counter += 1
        self.is_up, self.count = True, 0
        self.address = self.server.fresh_shop(f"machine{self.counter}")
        self.confirmed, self.promises = {}, {}
        self.benches = {name: self.opened(name) for name in BENCHES}

    def opened(self, name):
        # Each bench is a computer of its own.
        os.environ["XDG_DATA_HOME"] = str(self.folder / f"{name}{self.counter}")
        return open_or_go_on(self.address).shop

    def next(self):
        self.count += 1
        return self.count

    def numbers_by_uid(self, name):
        jobs = self.benches[name].jobs
        try:
            return {jobs.job(number).uid: number for number in jobs.numbers()}
        except ShopError:
            return {}

    def kept_of(self, uid):
        return self.confirmed.setdefault(uid, {"readings": set(), "soaks": set()})

    @rule(target=jobs, name=st.sampled_from(BENCHES))
    def new_job(self, name):
        shop = self.benches[name]
        try:
            number = shop.jobs.next_number()
            job = shop.jobs.add(JobFacts(number, f"Desk {self.next()}", promise="2x8G"))
        except ShopError:
            assert not self.is_up
            return multiple()
        self.kept_of(job.uid)
        self.promises[job.uid] = {"2x8G"}
        return job.uid

    @rule(name=st.sampled_from(BENCHES), uid=jobs)
    def read(self, name, uid):
        serial = f"{self.next():04d}"
        taken = take_notation(f"A2=16G serial {serial}; run 3200")
        self.added(name, uid, lambda jobs, number: jobs.add_reading(number, Moment.FITTED, taken), "readings", serial)

    @rule(name=st.sampled_from(BENCHES), uid=jobs)
    def test(self, name, uid):
        begun = BEGUN + timedelta(minutes=self.next())
        record = SoakRecord("short", SoakState.FINISHED, begun, 60.0, ("step",), 1, covered=Covered(1 << 30), fully_swept_bytes=1 << 30)
        self.added(name, uid, lambda jobs, number: jobs.keep_soak(number, record), "soaks", begun)

    def added(self, name, uid, add, kind, what):
        jobs = self.benches[name].jobs
        number = self.seen(name, uid)
        if number is None:
            return
        try:
            add(jobs, number)
        except KeptAsideError:
            assert not self.is_up
        except ShopError:
            # A bench that has not seen the job keeps nothing aside, and says so.
            assert not self.is_up
            return
        self.kept_of(uid)[kind].add(what)

    def seen(self, name, uid):
        """The job's number: asked of the server, or as this bench remembers it while the server is away."""
        if self.is_up or self.benches[name].outbox is None:
            return self.numbers_by_uid(name).get(uid)
        return next((number for number, job in self.benches[name].jobs._seen.items() if job.uid == uid), None)

    @rule(name=st.sampled_from(BENCHES), uid=jobs)
    def change_the_promise(self, name, uid):
        number = self.numbers_by_uid(name).get(uid)
        if number is None:
            return
        jobs = self.benches[name].jobs
        job = jobs.job(number)
        promise = f"2x8G; note {self.next()}"
        jobs.change_facts(job, replace(job.facts, promise=promise))
        self.promises[uid] = {promise} if self.benches[name].outbox is not None else {*self.promises[uid], promise}

    @precondition(lambda self: self.is_up)
    @rule(name=st.sampled_from(BENCHES), uid=jobs, killed=st.booleans())
    def the_server_goes_while_somebody_works(self, name, uid, killed):
        self.numbers_by_uid(name)  # The bench has looked at its jobs.
        self.server.stop()
        self.is_up = False
        self.read(name, uid)
        self.test(name, uid)
        if killed:
            self.killed_and_started_again(name)

    @precondition(lambda self: not self.is_up)
    @rule()
    def the_server_comes_back(self):
        self.server.start()
        self.is_up = True

    @rule(name=st.sampled_from(BENCHES))
    def killed_and_started_again(self, name):
        try:
            self.benches[name] = self.opened(name)
        except NotAnsweringError:
            assert not self.is_up

    @precondition(lambda self: self.is_up)
    @rule(name=st.sampled_from(BENCHES))
    def send(self, name):
        sent = send_waiting(self.benches[name])
        assert not sent.problems

    @invariant()
    def nothing_is_there_twice(self):
        if getattr(self, "is_up", False):
            for uid, job in self.of_the_server().items():
                serials, begun = kept_in(job)
                assert len(serials) == len(set(serials))
                assert len(begun) == len(set(begun))
                assert job.facts.promise in self.promises[uid]

    def of_the_server(self):
        shop = Shop.open(self.address)
        try:
            return {job.uid: job for job in map(shop.jobs.job, shop.jobs.numbers())}
        finally:
            shop.close()

    def teardown(self):
        if not hasattr(self, "benches"):
            return
        if not self.is_up:
            self.server.start()
        for name in BENCHES:  # Whoever opens the shop last finds what every bench was told to be kept.
            self.opened(name).close()
        found = self.of_the_server()
        assert set(found) == set(self.confirmed)
        for uid, told in self.confirmed.items():
            serials, begun = kept_in(found[uid])
            assert sorted(serials) == sorted(told["readings"])
            assert sorted(begun) == sorted(told["soaks"])
        shop = Shop.open(self.address)
        assert not check_shop(shop).problems
        for one in (shop, *self.benches.values()):
            one.close()


def kept_in(job):
    return [module.serial.value for kept in job.readings for module in kept.reading.modules], [kept.record.begun_at for kept in job.soaks]


def test_two_benches_on_a_server_that_goes_away(server, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    machine = type("Machine", (TwoBenchesOnOneServer,), {"server": server, "folder": tmp_path})
    quick = settings(
        max_examples=8,
        stateful_step_count=14,
        deadline=None,
        phases=(Phase.explicit, Phase.generate),
        suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
    )
    run_state_machine_as_test(machine, settings=quick)
