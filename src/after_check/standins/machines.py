"""The simulated machines of the scenario: slots, modules, settings and faults that can be changed and restarted.

A change shows after a restart, as on a real machine: what the tables say is what the firmware found when it started.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path

from after_check.standins.firmware_tables import SimulatedMachine, SimulatedModule, entry_point, tables

GIB_IN_MIB = 1024


@dataclass
class Bench:
    """One machine on the bench: what sits in its slots, and what is broken.

    `fitted` is what somebody put in; `machine` is what the firmware found at the last start. `dead_slots` see
    nothing, whatever sits in them; modules whose serial is in `half_modules` show half their size.
    """

    number: str
    title: str
    service: str
    machine: SimulatedMachine
    usable_kib: int
    fitted: dict[str, SimulatedModule | None] = field(default_factory=dict)
    dead_slots: set[str] = field(default_factory=set)
    half_modules: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.fitted = self.fitted or dict(self.machine.slots)

    def take_out(self, slot: str) -> SimulatedModule | None:
        """Take the module out of a slot. Raises KeyError for a slot that the board does not have."""
        module, self.fitted[slot] = self.fitted[slot], None
        return module

    def put_in(self, slot: str, module: SimulatedModule) -> None:
        """Put a module into a slot. Raises KeyError for a slot that the board does not have."""
        if slot not in self.fitted:
            raise KeyError(slot)
        self.fitted[slot] = module

    def restart(self) -> None:
        """Start the machine again: the firmware looks into every slot."""
        found = {slot: self._seen(slot, module) for slot, module in self.fitted.items()}
        before_mib = sum(module.size_mib for module in self.machine.slots.values() if module)
        now_mib = sum(module.size_mib for module in found.values() if module)
        self.usable_kib = max(0, self.usable_kib + (now_mib - before_mib) * 1024)
        self.machine = replace(self.machine, slots=found)

    def _seen(self, slot: str, module: SimulatedModule | None) -> SimulatedModule | None:
        if module is None or slot in self.dead_slots:
            return None
        return replace(module, size_mib=module.size_mib // 2) if module.serial in self.half_modules else module

    def write_tree(self, folder: Path) -> None:
        """Write what the running system shows of the machine as a `/sys` and `/proc` tree."""
        dmi = folder / "sys" / "firmware" / "dmi" / "tables"
        dmi.mkdir(parents=True, exist_ok=True)
        table = tables(self.machine)
        (dmi / "DMI").write_bytes(table)
        (dmi / "smbios_entry_point").write_bytes(entry_point(table))
        proc = folder / "proc"
        (proc / "sys" / "kernel").mkdir(parents=True, exist_ok=True)
        free_kib = self.usable_kib * 7 // 10
        (proc / "meminfo").write_text(f"MemTotal:       {self.usable_kib:>9} kB\nMemFree:        {free_kib:>9} kB\n")
        (proc / "cpuinfo").write_text(f"processor\t: 0\nmodel name\t: {self.machine.processor}\nflags\t\t: fpu sse sse2 ht lm\n")
        (proc / "sys" / "kernel" / "arch").write_text("x86_64\n")


def module(size_gib: int, generation: str, form: str, rate_mts: int, **more: object) -> SimulatedModule:
    """Return a module that runs at the rate it is sold as, unless `configured_mts` says otherwise."""
    described = {"speed_mts": rate_mts, "configured_mts": rate_mts, **more}
    return SimulatedModule(size_gib * GIB_IN_MIB, generation, form, **described)  # type: ignore[arg-type]


def _ddr5(serial: str) -> SimulatedModule:
    return module(8, "DDR5", "UDIMM", 4800, maker="Brackwater", part="BW5-4800-8", serial=serial, configured_mv=1100)


def _server_module(index: int, new: bool) -> SimulatedModule:
    serial = f"0{'7C' if new else '5A'}1{index}E4{index}"
    return module(32, "DDR4", "RDIMM", 3200, maker="Ostrel", part="OS4R-32G32", serial=serial, ranks=2, ecc=True)


SOLDERED = module(8, "DDR4", "soldered", 3200, maker="Tarnhollow", part="TH4-M8")
ADDED = module(8, "DDR4", "SODIMM", 3200, maker="Quillmark", part="QM4S-3200-8", serial="51C0A7D2")
SMALL = module(4, "DDR4", "SODIMM", 2400, maker="Ostrel", part="OS4S-2400-4", serial="11D07A02")
LARGE = module(16, "DDR4", "SODIMM", 2400, maker="Quillmark", part="QM4S-2400-16", serial="62E4B118", ranks=2)


def sonogram_desk() -> Bench:
    """Return job 0417 on arrival: a Larkfield T2 with 2 x 8 GiB."""
    slots = {"A1": None, "A2": _ddr5("30A1F204"), "B1": None, "B2": _ddr5("30A1F20B")}
    machine = SimulatedMachine(
        "Larkfield", "Larkfield T2", "2.14", slots, 192 * GIB_IN_MIB, serial="LT2-20417", processor="Eight-core processor"
    )
    return Bench("0417", "sonogram desk, on arrival", "ssh", machine, 16_250_112)


def ringing_hut_laptop() -> Bench:
    """Return job 0418 on arrival: a Dunlin 14 with 8 GiB soldered."""
    slots: dict[str, SimulatedModule | None] = {"ChannelA-DIMM0": SOLDERED, "ChannelB-DIMM0": None}
    machine = SimulatedMachine(
        "Dunlin", "Dunlin 14", "1.09", slots, 40 * GIB_IN_MIB, serial="DN14-7781", processor="Six-core mobile processor"
    )
    return Bench("0418", "ringing-hut laptop, on arrival", "ssh", machine, 7_996_420)


def camera_trap_server() -> Bench:
    """Return job 0419 after fitting: a Holm R6 with eight modules, one of which is not seen."""
    fitted: dict[str, SimulatedModule | None] = {
        f"{letter}1": _server_module(index, letter not in "AEBF") for index, letter in enumerate("ABCDEFGH")
    }
    arrival = {slot: one if slot[0] in "AEBF" else None for slot, one in fitted.items()}
    machine = SimulatedMachine(
        "Holm", "Holm R6", "3.02", arrival, 512 * GIB_IN_MIB, serial="HR6-00121", processor="Sixteen-core server processor"
    )
    bench = Bench("0419", "camera-trap server, D1 not seen", "redfish", machine, 131_729_400, fitted, dead_slots={"D1"})
    bench.restart()
    return bench


def visitor_kiosk() -> Bench:
    """Return job 0420 on arrival: a Larkfield S1 with 4 GiB."""
    banks = {"DIMM 0": "Channel A", "DIMM 1": "Channel B"}
    slots: dict[str, SimulatedModule | None] = {"DIMM 0": SMALL, "DIMM 1": None}
    machine = SimulatedMachine("Larkfield", "Larkfield S1", "1.31", slots, 32 * GIB_IN_MIB, banks=banks, serial="LS1-3309")
    return Bench("0420", "visitor kiosk, on arrival", "ssh", machine, 3_925_448)


MACHINES = {"0417": sonogram_desk, "0418": ringing_hut_laptop, "0419": camera_trap_server, "0420": visitor_kiosk}
"""How each machine of the scenario is set up, by its job's number."""
