"""Rules that hold the promised modules, word by word, against the fitted ones."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.modules import Form, Generation, Module, Timings
from after_check.domain.quantities import number_text, size_text
from after_check.judgement.case import Case
from after_check.standards.rates import same_rate

_TELLING_LETTERS = 6
_LOW_VOLTAGE_MATTERS = (Generation.DDR2, Generation.DDR3)
"""Generations that are sold for two voltages; later ones have one, and what is written beside it is a profile's."""


@dataclass(frozen=True, slots=True)
class _Difference:
    what: str
    promised: str
    fitted: str


def differs(case: Case) -> Iterator[Finding]:
    """module.differs: a fitted module is of another kind than the promised one."""
    said: dict[str, list[str]] = {}
    for slot, promised, fitted in _pairs(case):
        found = list(_differences(promised, fitted, with_size=not case.seen))
        if found:
            said.setdefault("; ".join(f"{part.what} {part.fitted}, promised {part.promised}" for part in found), []).append(slot)
    for difference, slots in said.items():
        named = tuple(slot for slot in slots if slot)
        place = f" in {' and '.join(named)}" if named else ""
        many = len(slots) > 1
        yield Finding(
            code=Code.MODULE_DIFFERS,
            severity=Severity.FIX,
            title=f"{f'{len(slots)} modules' if many else 'The module'}{place} {'are' if many else 'is'} not as promised: {difference}",
            reason="What was promised and what the modules say of themselves are different.",
            next="Fit the promised module, or agree on this one with the customer and change the promise.",
            sure=0.9,
            customer=f"The memory{place} is of another kind than agreed on.",
            evidence=(Evidence(difference, Source.WORKED_OUT),),
            slots=named,
        )


def swapped(case: Case) -> Iterator[Finding]:
    """slots.swapped: the promised modules are all there, in other slots than promised."""
    wrong = swapped_slots(case)
    if wrong:
        yield Finding(
            code=Code.SLOTS_SWAPPED,
            severity=Severity.TELL,
            title=f"In other slots than promised: {', '.join(wrong)}",
            reason="The modules are those that were promised, and sit in each other's slots.",
            next="Nothing to fix where rate and channels are as promised; else put each into its slot and read again.",
            sure=0.9,
            customer="The memory modules sit in other slots than written down; that alone does no harm.",
            evidence=tuple(Evidence(f"{slot} holds another one than promised", Source.WORKED_OUT) for slot in wrong),
            slots=tuple(wrong),
        )


def swapped_slots(case: Case) -> list[str]:
    """Return the slots whose modules are swapped: the promised sizes are all there, and not where they were promised."""
    promised = {slot.name.casefold(): size for slot in case.promise.slots if slot.module and (size := value_of(slot.module.size_bytes))}
    seen = {
        slot.name.casefold(): (slot.name, size)
        for slot in case.now.reading.slots
        if slot.module is not None and (size := value_of(slot.module.size_bytes))
    }
    if not promised or case.promise.loose or sorted(promised.values()) != sorted(size for _, size in seen.values()):
        return []
    return [name for key, (name, size) in seen.items() if key in promised and promised[key] != size]


def _pairs(case: Case) -> Iterator[tuple[str, Module, Module]]:
    """Yield slot, promised and fitted module: by slot where both name it, else those that differ the least."""
    seen = {slot.name.casefold(): (slot.name, slot.module) for slot in case.now.reading.slots if slot.module is not None}
    swap = bool(swapped_slots(case))
    left_promised: list[Module] = list(case.promise.loose)
    taken: set[str] = set()
    for slot in case.promise.slots:
        key = slot.name.casefold()
        if slot.module is None:
            continue
        if key in seen and not swap:
            name, module = seen[key]
            taken.add(key)
            yield name, slot.module, module
        else:
            left_promised.append(slot.module)
    left = [(slot, module) for slot, module in case.now.reading.filled() if slot.casefold() not in taken or not slot]
    for promised in left_promised:
        if not left:
            yield "", promised, Module()  # In a slot that nobody looked at, or not there: nothing is known of it.
            continue
        best = min(left, key=lambda pair: (_size_differs(promised, pair[1]), len(list(_differences(promised, pair[1])))))
        left.remove(best)
        yield best[0], promised, best[1]


_FITS_OR_NOT = ("generation", "form", "voltage")
"""What a machine that started with the module has proven: another kind would not fit its slots, or not start."""


def not_known(case: Case) -> list[str]:
    """Return which promised words of modules nobody said of the fitted ones, so that nothing tells whether they are kept."""
    found: list[str] = []
    for _, promised, fitted in _pairs(case):
        found += [what for what, read, _ in _COMPARED if what not in _FITS_OR_NOT and read(promised) is not None and read(fitted) is None]
        promised_timings = value_of(promised.timings) is not None and value_of(promised.rated_mts) is not None
        if promised_timings and _timings_at(fitted, value_of(promised.rated_mts)) is None and case.now.timings is None:
            found.append("timings")
    return list(dict.fromkeys(found))


def _size_differs(promised: Module, fitted: Module) -> bool:
    wanted, size = value_of(promised.size_bytes), value_of(fitted.size_bytes)
    return wanted is not None and size is not None and wanted != size


def _differences(promised: Module, fitted: Module, with_size: bool = False) -> Iterator[_Difference]:
    """Yield what both state and state differently. What the fitted module does not say of itself is no difference."""
    for what, read, words in _COMPARED:
        wanted, found = read(promised), read(fitted)
        if wanted is not None and found is not None and not _same(wanted, found):
            yield _Difference(what, words(wanted), words(found))
    if with_size and _size_differs(promised, fitted):
        sizes = (value_of(promised.size_bytes) or 0, value_of(fitted.size_bytes) or 0)
        yield _Difference("size", size_text(sizes[0]), size_text(sizes[1]))
    wanted_timings, best = value_of(promised.timings), _timings_at(fitted, value_of(promised.rated_mts))
    if wanted_timings is not None and best is not None and best.cl > wanted_timings.cl:
        yield _Difference("timings", str(wanted_timings), str(best))


def _timings_at(module: Module, rate_mts: int | None) -> Timings | None:
    """Return the shortest timings that a module states for exactly this rate, at its standard or by a profile."""
    if rate_mts is None:
        return None
    found = [profile.timings for profile in value_of(module.profiles) or () if same_rate(profile.rate_mts, rate_mts) and profile.timings]
    own_mts = value_of(module.standard_mts if module.timings and module.timings.source is Source.SPD else module.rated_mts)
    if module.timings is not None and own_mts is not None and same_rate(own_mts, rate_mts):
        found.append(module.timings.value)
    return min(found, key=lambda timings: timings.cl, default=None)


def _form(module: Module) -> str | None:
    """Return the form; a firmware table that says DIMM and no more does not say that nothing is registered."""
    if module.form is None or (module.form.source is Source.FIRMWARE and module.form.value is Form.UDIMM):
        return None
    return module.form.value.value


def _voltage(module: Module) -> int | None:
    generation = value_of(module.generation)
    return value_of(module.voltage_mv) if generation is not None and generation in _LOW_VOLTAGE_MATTERS else None


def _text(name: str) -> Callable[[Module], str | None]:
    def read(module: Module) -> str | None:
        found: str | None = value_of(getattr(module, name))
        return found or None

    return read


def _same(wanted: object, found: object) -> bool:
    """Return whether two values are the same; of numbers on stickers and in tables one may be cut, or padded with zeros."""
    if isinstance(wanted, str) and isinstance(found, str):
        shorter, longer = sorted((text.replace(" ", "").casefold().lstrip("0") for text in (wanted, found)), key=len)
        return shorter == longer or (len(shorter) >= _TELLING_LETTERS and (longer.startswith(shorter) or longer.endswith(shorter)))
    return wanted == found


_COMPARED: tuple[tuple[str, Callable[[Module], object], Callable[..., str]], ...] = (
    ("generation", lambda module: value_of(module.generation), str),
    ("form", _form, str),
    ("error correction", lambda module: value_of(module.ecc), lambda ecc: "with ECC" if ecc else "without ECC"),
    ("ranks", lambda module: value_of(module.ranks), str),
    ("device width", lambda module: value_of(module.device_width_bits), lambda bits: f"x{bits}"),
    ("voltage", _voltage, lambda millivolts: f"{number_text(millivolts / 1000, 2)} V"),
    ("maker", _text("maker"), str),
    ("part", _text("part"), str),
    ("serial", _text("serial"), str),
)
"""What is compared, how it is read off a module, and its words."""
