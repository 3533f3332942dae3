"""The command `stand-in`: simulated machines to try readings over the network on."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from after_check.cli.exit_codes import EXIT_USAGE
from after_check.standins.appliance_service import ApplianceService
from after_check.standins.machines import MACHINES, Bench
from after_check.standins.redfish_service import RedfishService
from after_check.standins.ssh_target import SshTarget

_APPLIANCE = "0422"
_HELP = "out SLOT · move SLOT SLOT · dead SLOT · half SLOT · restart · slots · quit"


def stand_in_command(what: str, number: str | None, port: int, password: str | None) -> int:
    """List the machines, or serve one until it is told to quit."""
    if what == "list":
        for make in MACHINES.values():
            bench = make()
            print(f"{bench.number}  {bench.service:<8} {bench.machine.model:<14} {bench.title}")
        print("0422  http     Cairnbox 2     Tide archive (tests its own memory)")
        return 0
    if what == "serve" and number == _APPLIANCE:
        return _serve_appliance(port)
    if what != "serve" or number not in MACHINES:
        print("after-check: write stand-in list, or stand-in serve NUMBER with a number of the list", file=sys.stderr)
        return EXIT_USAGE
    with tempfile.TemporaryDirectory(prefix="after-check-") as folder:
        return _serve(MACHINES[number](), Path(folder), port, password or "")


def _serve_appliance(port: int) -> int:
    """Serve the appliance until it is told to quit."""
    service = ApplianceService(test_seconds=30.0)
    print(f"Tide archive (Cairnbox 2)\nhttp://127.0.0.1:{service.start(port)}\nerrors N · quit", flush=True)
    try:
        for line in sys.stdin:
            words = line.split()
            if words[:1] == ["quit"]:
                break
            if len(words) == 2 and words[0] == "errors" and words[1].isdigit():
                service.errors = int(words[1])
                print("done; its next test finds them", flush=True)
            else:
                print("errors N · quit", flush=True)
    except KeyboardInterrupt:
        pass
    finally:
        service.stop()
    return 0


def _serve(bench: Bench, folder: Path, port: int, password: str) -> int:
    bench.write_tree(folder)
    service: RedfishService | SshTarget
    if bench.service == "redfish":
        service = RedfishService(bench.machine, folder / "service", password=password)
        address = f"redfish+https://{service.user}@127.0.0.1:{service.start(port)}"
    else:
        service = SshTarget(folder, password=password)
        address = f"ssh://{service.user}@127.0.0.1:{service.start(port)}{folder}"
    print(f"{bench.title} ({bench.machine.model})\n{address}\npassword: {service.password}\n{_HELP}", flush=True)
    try:
        for line in sys.stdin:
            said = _change(bench, line.split())
            if said is None:
                break
            bench.write_tree(folder)
            if isinstance(service, RedfishService):
                service.machine = bench.machine
            print(said, flush=True)
    except KeyboardInterrupt:
        pass
    finally:
        service.stop()
    return 0


def _change(bench: Bench, words: list[str]) -> str | None:
    """Carry out a line and return what to say, or None to quit."""
    names = {slot.casefold().replace(" ", ""): slot for slot in bench.fitted}
    slots = [names.get(word.casefold(), "") for word in words[1:]]
    match words[:1]:
        case ["quit"]:
            return None
        case ["restart"]:
            bench.restart()
            return "started again"
        case ["slots"]:
            return "; ".join(f"{slot}={'-' if module is None else f'{module.size_mib // 1024}G'}" for slot, module in bench.fitted.items())
        case ["out"] if slots and slots[0]:
            bench.take_out(slots[0])
        case ["move"] if len(slots) == 2 and all(slots) and (module := bench.take_out(slots[0])) is not None:
            bench.put_in(slots[1], module)
        case ["dead"] if slots and slots[0]:
            bench.dead_slots ^= {slots[0]}
        case ["half"] if slots and slots[0] and (module := bench.fitted[slots[0]]) is not None:
            bench.half_modules ^= {module.serial}
        case _:
            return _HELP
    return "done; it shows after a restart"
