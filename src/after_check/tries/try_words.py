"""Tries in words."""

from __future__ import annotations

from after_check.domain.quantities import counted, size_text
from after_check.domain.tries import Arrangement, SoakSaid, Started, Try, TryModule
from after_check.tries.watch import clock


def fitted_words(arrangement: Arrangement) -> str:
    """Return an arrangement in words: `a in A2, b in B2`."""
    return ", ".join(f"{letter} in {slot}" for slot, letter in arrangement.fitted) or "nothing fitted"


def outcome_words(tried: Try) -> str:
    """Return how a try ended, in a few words."""
    words: list[str] = []
    if tried.starts_failed:
        words.append(f"{tried.starts_failed} of {tried.starts} starts failed")
    if tried.started is Started.NO:
        words.append("no start")
    elif tried.started is Started.CYCLES:
        words.append("started after power cycles")
    if tried.unseen:
        words.append(f"{', '.join(tried.unseen)} not seen")
    if tried.soak is SoakSaid.ERRORS:
        words.append("memory test errors" + (f" in {', '.join(tried.errors_in)}" if tried.errors_in else ""))
    elif tried.soak is SoakSaid.CLEAN:
        words.append("memory test clean")
    if tried.off_under_load:
        words.append("off under load")
    often = f" {tried.starts} times" if (tried.starts or 1) > 1 else ""
    if words and often and not tried.starts_failed and tried.started is Started.YES:
        words.insert(0, f"started{often}")
    if not words:
        words.append(f"started{often}, all seen" if tried.seen is not None else f"started{often}" if tried.started else "nothing noted")
    return ", ".join(words)


def shown_words(tried: Try) -> str:
    """Return the figures that the machine showed with an arrangement: `2400 MT/s, 16 GB, 2 channels, 21.3 GB/s`; empty where none."""
    words = [
        f"{tried.rate_mts} MT/s" if tried.rate_mts else "",
        size_text(tried.total_bytes) if tried.total_bytes else "",
        counted(tried.channels, "channel") if tried.channels else "",
        f"{tried.benchmark_gbs:.1f} GB/s" if tried.benchmark_gbs else "",
    ]
    return ", ".join(word for word in words if word)


def places_of(tried: Try) -> tuple[str, ...]:
    """Return where errors lay: as a person wrote it, and the bits that a test of this program found wrong."""
    bits = ", ".join(str(bit) for bit in tried.wrong_bits)
    return (*tried.errors_at, *([f"bits {bits}"] if bits else []))


def facts_of(tried: Try) -> list[tuple[str, str]]:
    """Return what is known of a try, by name, in words."""
    fitted_words = ", ".join(f"{letter} in {slot}" for slot, letter in tried.arrangement.fitted) or "nothing"
    starts = {Started.YES: "yes", Started.NO: "no", Started.CYCLES: f"after power cycles{f' ({tried.cycles})' if tried.cycles else ''}"}
    said = [
        ("fitted", fitted_words),
        ("profile", tried.arrangement.profile),
        ("start", (starts[tried.started] if tried.started else "") + (f", {clock(tried.seconds)}" if tried.seconds is not None else "")),
        ("starts", f"{tried.starts}, {tried.starts_failed or 'none'} failed" if tried.starts else ""),
        ("seen", ", ".join(tried.seen) if tried.seen is not None else ""),
        ("total", size_text(tried.total_bytes) if tried.total_bytes else ""),
        ("speed", f"{tried.rate_mts} MT/s" if tried.rate_mts else ""),
        ("channels", str(tried.channels) if tried.channels else ""),
        ("soak", _soak_words(tried)),
        ("errors at", "; ".join(places_of(tried))),
        ("benchmark", f"{tried.benchmark_gbs:.1f} GB/s" if tried.benchmark_gbs else ""),
        ("load", "switches off under load" if tried.off_under_load else ""),
        ("heat", f"{tried.celsius:.0f} °C" if tried.celsius is not None else ""),
        ("network", {True: "seen on it", False: "not seen on it"}.get(tried.on_network, "") if tried.on_network is not None else ""),
        ("settings", "cleared" if tried.settings_reset else ""),
        ("seated", f"{', '.join(tried.reseated)} again" if tried.reseated else ""),
        ("put right", tried.put_right or ""),
        ("signs", ", ".join(tried.signs)),
        ("note", tried.note),
    ]
    return [(name, words) for name, words in said if words]


def _soak_words(tried: Try) -> str:
    if tried.soak is None:
        return ""
    where = f" in {', '.join(tried.errors_in)}" if tried.errors_in else ""
    return f"{tried.soak.value}{where}" + (f", {tried.soak_minutes:.0f} min" if tried.soak_minutes else "")


def elsewhere_words(module: TryModule) -> str:
    """Return how a module did in another machine in a few words; empty where it was in none."""
    if not module.elsewhere:
        return ""
    failed = [one for one in module.elsewhere if one.failed]
    if failed:
        often = f" {len(failed)} of {len(module.elsewhere)} times" if len(module.elsewhere) > 1 else ""
        return f"fails in another machine{often}"
    tested = sum(one.soak_minutes or 0.0 for one in module.elsewhere)
    return f"clean in another machine, {tested:.0f} min" if tested else "starts in another machine"
