"""Jobs to keep in a shop."""

from __future__ import annotations

from after_check.domain.jobs import JobFacts, Moment
from after_check.sources.open_source import take_notation

FACTS = JobFacts("0501", "Tide desk", "Larkfield T1", "Tide-gauge office", "2x16G DDR4-3200; dual")


BEFORE = "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400"


AFTER = 'A2=16G DDR4-3200 part "QM=1" serial C0FFEE; B2=16G DDR4-3200; run 3200'


def keep(shop, facts=FACTS):
    return shop.jobs.add(facts, ((Moment.ARRIVAL, take_notation(BEFORE)), (Moment.FITTED, take_notation(AFTER))))
