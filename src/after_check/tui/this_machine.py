"""Views whose work runs on the computer that After Check runs on: it counts for a job only where that is the job's machine."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import replace

from textual import work

from after_check.casework.same_machine import agreement_with
from after_check.domain.identity import Agreement, MachineIdentity
from after_check.domain.jobs import Job
from after_check.tui.base import Result, ShopScreen
from after_check.tui.dialogs.choose import ChooseDialog

HERE_ALL_THE_SAME = "h"


class OnThisMachine(ShopScreen[Result]):
    """Asks whether this is the machine, where nothing tells; says that it is not, where something does. The answer is asked once a view."""

    INSTEAD: tuple[tuple[str, str], ...] = ()
    """What else can be done for a machine that is not this one, the most useful first: a key, and what it does."""

    HERE_WORDS = "run it on this computer all the same; it does not count for the job"
    machine_here: MachineIdentity | None = None

    def find_agreement(self, job: Job) -> tuple[Agreement, str]:
        """Return whether this is the job's machine, and why. Called off the screen's thread."""
        if self.machine_here is None:
            self.machine_here = self.shop_app.identity()
        return agreement_with(job, self.machine_here)

    @work(exclusive=True, group="machine")
    async def on_the_jobs_machine(self, job: Job, begin: Callable[[MachineIdentity], None]) -> None:
        """Begin something that runs here, with the identity of this machine; ask first where it is not certain."""
        agreed, why = await asyncio.to_thread(self.find_agreement, job)
        here = self.machine_here or MachineIdentity()
        if agreed is Agreement.SAME:
            begin(here)
        elif agreed is Agreement.DIFFERENT:
            self._tell_of_another(job, why, begin)
        else:
            self._ask(job, begin)

    def instead(self, key: str) -> None:
        """Do what else can be done."""

    def _ask(self, job: Job, begin: Callable[[MachineIdentity], None]) -> None:
        here = self.machine_here or MachineIdentity()

        def answered(key: str | None) -> None:
            if key is None:
                return
            self.machine_here = replace(here, is_the_jobs=key == "y")
            if key == "y":
                begin(self.machine_here)
            else:
                self._tell_of_another(job, "you said so", begin)

        question = (
            f"After Check runs on {here.words}. Nothing tells whether that is the machine of job {job.facts.number}"
            f"{f', {job.facts.machine}' if job.facts.machine else ''}.\nWhat runs here says something of the job only if it is."
        )
        answers = (("y", "yes, After Check runs on the customer's machine"), ("n", "no, this is another computer"))
        self.app.push_screen(ChooseDialog("IS THIS THE MACHINE?", question, answers), answered)

    def _tell_of_another(self, job: Job, why: str, begin: Callable[[MachineIdentity], None]) -> None:
        here = replace(self.machine_here or MachineIdentity(), is_the_jobs=False)

        def chosen(key: str | None) -> None:
            if key == HERE_ALL_THE_SAME:
                begin(here)
            elif key is not None:
                self.instead(key)

        question = f"This is not the machine of job {job.facts.number}: {why}.\nWhat runs here says nothing of the customer's machine."
        answers = (*self.INSTEAD, (HERE_ALL_THE_SAME, self.HERE_WORDS))
        self.app.push_screen(ChooseDialog("ANOTHER COMPUTER", question, answers), chosen)
