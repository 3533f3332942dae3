"""Names of module makers. None is shipped: a shop learns them from modules that show a name and a JEDEC code."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from after_check.domain.facts import Fact, Source
from after_check.domain.modules import MakerId, Module
from after_check.domain.readings import Reading
from after_check.judgement.reconcile import reconciled


def pairs_in(reading: Reading) -> Iterator[tuple[MakerId, str]]:
    """Yield code and name of every module whose name came from elsewhere than the code."""
    for module in reconciled(reading).modules:
        if module.maker is not None and module.maker_id is not None and module.maker.source is not Source.WORKED_OUT:
            yield module.maker_id.value, module.maker.value


def named(reading: Reading, names: Mapping[MakerId, str]) -> Reading:
    """Return the reading with the names that the shop knows for modules that show only a code."""
    spd = tuple(replace(entry, module=_named(entry.module, names)) for entry in reading.spd)
    return replace(reading, spd=spd) if spd else reading


def _named(module: Module, names: Mapping[MakerId, str]) -> Module:
    name = names.get(module.maker_id.value) if module.maker_id is not None and module.maker is None else None
    if name is None or module.maker_id is None:
        return module
    return replace(module, maker=Fact(name, Source.WORKED_OUT, f"this shop knows {module.maker_id.value} by this name"))
