"""Whatever is done to two benches and a stick, in whatever order: what was confirmed is there, once, and the shop is sound.

A machine of states (hypothesis): jobs, readings, tests, notes, signatures, job files to and fro, a stick out and back with any clock,
a program that ends without closing its shop. After each step every promise of docs/trust.md that can be seen here is looked at.
"""

from __future__ import annotations

import json
import shutil
import tempfile
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from io import BytesIO
from pathlib import Path
from zipfile import ZipFile

from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, initialize, invariant, rule

from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.local.settings import Settings
from after_check.shop.checking import check_shop
from after_check.shop.exchange import bring_in, handed_out, job_file
from after_check.shop.shop import Shop
from after_check.shop.zip_files import zipped
from after_check.sources.open_source import take_notation
from after_check.stick.contents import StickFolder
from after_check.stick.load import collect_stick, load_stick

BEGUN = datetime(2026, 11, 2, 9, tzinfo=UTC)
BENCHES = ("here", "there")


class TwoBenchesAndAStick(RuleBasedStateMachine):
    """`known` is what each bench has confirmed of each job, by the job's identity."""

    jobs = Bundle("jobs")

    @initialize()
    def open(self):
        self.folder = Path(tempfile.mkdtemp())
        self.shops = {name: Shop.open(self.folder / f"{name}.db") for name in BENCHES}
        (self.folder / "stick" / "after-check").mkdir(parents=True)
        self.stick = StickFolder(self.folder / "stick")
        self.known = {name: {} for name in BENCHES}
        self.on_stick = {}
        self.count = 0

    def next(self):
        self.count += 1
        return self.count

    def number(self, bench, uid):
        shop = self.shops[bench]
        return next((number for number in shop.jobs.numbers() if shop.jobs.job(number).uid == uid), None)

    def kept(self, bench, uid, kind, what):
        self.known[bench].setdefault(uid, {"readings": set(), "soaks": set(), "promises": []})[kind].add(what)

    @rule(target=jobs, bench=st.sampled_from(BENCHES))
    def new_job(self, bench):
        at = self.next()
        job = self.shops[bench].jobs.add(JobFacts(f"{at:04d}", f"Desk {at}", promise="2x8G"))
        self.known[bench][job.uid] = {"readings": set(), "soaks": set(), "promises": ["2x8G"]}
        return job.uid

    @rule(bench=st.sampled_from(BENCHES), uid=jobs)
    def read(self, bench, uid):
        number = self.number(bench, uid)
        if number is not None:
            serial = f"{self.next():04d}"
            self.shops[bench].jobs.add_reading(number, Moment.FITTED, take_notation(f"A2=16G serial {serial}; run 3200"))
            self.kept(bench, uid, "readings", serial)

    @rule(bench=st.sampled_from(BENCHES), uid=jobs)
    def test(self, bench, uid):
        number = self.number(bench, uid)
        if number is not None:
            begun = BEGUN + timedelta(minutes=self.next())
            record = SoakRecord("short", SoakState.FINISHED, begun, 60.0, ("step",), 1, covered=Covered(1 << 30), fully_swept_bytes=1 << 30)
            self.shops[bench].jobs.keep_soak(number, record)
            self.kept(bench, uid, "soaks", begun)

    @rule(bench=st.sampled_from(BENCHES), uid=jobs)
    def change_the_promise(self, bench, uid):
        number = self.number(bench, uid)
        if number is not None:
            job = self.shops[bench].jobs.job(number)
            promise = f"2x8G; note {self.next()}"
            self.shops[bench].jobs.change_facts(job, replace(job.facts, promise=promise))
            self.known[bench][uid]["promises"].append(promise)

    @rule(bench=st.sampled_from(BENCHES), uid=jobs)
    def hand_over(self, bench, uid):
        number = self.number(bench, uid)
        if number is None:
            return
        other = BENCHES[1 - BENCHES.index(bench)]
        path = self.folder / "job.zip"
        path.write_bytes(job_file(self.shops[bench], number))
        asked = bring_in(self.shops[other], path).both_wrote
        told = self.known[bench][uid]
        theirs = self.known[other].setdefault(uid, {"readings": set(), "soaks": set(), "promises": list(told["promises"])})
        for kind in ("readings", "soaks"):
            for what in told[kind]:
                self.kept(other, uid, kind, what)
        # What one bench wrote and the other knew is taken; where both wrote, what is there stays and is asked.
        behind, ahead = theirs["promises"], told["promises"]
        assert bool(asked) == (behind != ahead and behind != ahead[: len(behind)] and ahead != behind[: len(ahead)])
        if behind == ahead[: len(behind)]:
            theirs["promises"] = list(ahead)

    @rule(uid=jobs)
    def load_the_stick(self, uid):
        number = self.number("here", uid)
        if number is not None:
            load_stick(self.shops["here"], self.stick, (number,), False, Settings())
            self.on_stick[uid] = set()

    @rule(uid=jobs, clock_days=st.sampled_from([-4000, 0, 4000]))
    def test_from_the_stick(self, uid, clock_days):
        found = next((one for one in self.stick.jobs()[0] if one.uid == uid), None)
        if found is None:
            return
        place = self.folder / f"visit{self.next()}.db"
        there = Shop.open(place)
        number = bring_in(there, found.path).number
        begun = BEGUN + timedelta(days=clock_days, minutes=self.next())
        there.jobs.keep_soak(number, SoakRecord("short", SoakState.FINISHED, begun, 60.0, ("step",), 1, fully_swept_bytes=1 << 30))
        document = json.loads(ZipFile(BytesIO(job_file(there, number))).read("job.json"))
        document["changed_at"] = (datetime.now(UTC) + timedelta(days=clock_days)).isoformat()
        self.stick.put_job(uid, zipped(document, handed_out(there, number)[1]))
        there.close()
        self.on_stick.setdefault(uid, set()).add(begun)

    @rule()
    def collect_the_stick(self):
        collected = collect_stick(self.shops["here"], self.stick)
        assert not collected.problems
        for uid, begun in self.on_stick.items():
            for one in begun:
                self.kept("here", uid, "soaks", one)

    @rule(bench=st.sampled_from(BENCHES))
    def end_without_closing(self, bench):
        """A program that is killed closes nothing: what it confirmed is in the file."""
        self.shops[bench] = Shop.open(self.folder / f"{bench}.db")

    @invariant()
    def what_was_confirmed_is_there_once(self):
        for bench, known in getattr(self, "known", {}).items():
            for uid, told in known.items():
                job = self.shops[bench].jobs.job(self.number(bench, uid))
                serials = [module.serial.value for kept in job.readings for module in kept.reading.modules]
                begun = [kept.record.begun_at for kept in job.soaks]
                assert len(serials) == len(set(serials))
                assert told["readings"] <= set(serials)
                assert len(begun) == len(set(begun))
                assert told["soaks"] <= set(begun)
                assert job.facts.promise == told["promises"][-1]

    @invariant()
    def every_shop_is_sound(self):
        for shop in getattr(self, "shops", {}).values():
            assert not check_shop(shop).problems

    def teardown(self):
        for shop in getattr(self, "shops", {}).values():
            shop.close()
        if hasattr(self, "folder"):
            shutil.rmtree(self.folder, ignore_errors=True)


TwoBenchesAndAStick.TestCase.settings = settings(
    max_examples=8,
    stateful_step_count=14,
    deadline=None,
    phases=(Phase.explicit, Phase.generate),  # Shrinking would open hundreds of shops.
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
TestTwoBenchesAndAStick = TwoBenchesAndAStick.TestCase
