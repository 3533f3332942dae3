"""Writes the sample machines of the demo shop as copied `/sys` and `/proc` trees.

Run after changing a machine here: `.venv/bin/python tools/make_samples.py`. The readings that were typed are
in the sample folders themselves, as lines of notation.
"""

from __future__ import annotations

from pathlib import Path

from after_check.standins.firmware import SimulatedMachine, SimulatedModule, entry_point, tables

SAMPLES = Path(__file__).parent.parent / "src" / "after_check" / "samples"
GIB_IN_MIB = 1024


def module(size_gib: int, generation: str, form: str, rate: int, **more: object) -> SimulatedModule:
    """Return a module that runs at the rate it is sold as, unless `configured_mts` says otherwise."""
    described = {"speed_mts": rate, "configured_mts": rate, **more}
    return SimulatedModule(size_gib * GIB_IN_MIB, generation, form, **described)  # type: ignore[arg-type]


def tower(slots: dict[str, SimulatedModule | None]) -> SimulatedMachine:
    """Return the Larkfield T2 of the sonogram desk."""
    return SimulatedMachine(
        "Larkfield", "Larkfield T2", "2.14", slots, 192 * GIB_IN_MIB, serial="LT2-20417", processor="Eight-core processor"
    )


def laptop(slots: dict[str, SimulatedModule | None]) -> SimulatedMachine:
    """Return the Dunlin 14 of the ringing hut."""
    return SimulatedMachine(
        "Dunlin", "Dunlin 14", "1.09", slots, 40 * GIB_IN_MIB, serial="DN14-7781", processor="Six-core mobile processor"
    )


def server(missing: str | None, letters: str) -> SimulatedMachine:
    """Return the Holm R6 with modules in the slots of these letters but for the missing one."""
    slots: dict[str, SimulatedModule | None] = {}
    for index, letter in enumerate("ABCDEFGH"):
        name = f"{letter}1"
        new = letter not in "AEBF"
        made = module(
            *(32, "DDR4", "RDIMM", 3200),
            maker="Ostrel",
            part="OS4R-32G32",
            serial=f"0{'7C' if new else '5A'}1{index}E4{index}",
            ranks=2,
            ecc=True,
        )
        slots[name] = made if letter in letters and name != missing else None
    return SimulatedMachine(
        "Holm", "Holm R6", "3.02", slots, 512 * GIB_IN_MIB, serial="HR6-00121", processor="Sixteen-core server processor"
    )


def kiosk(slots: dict[str, SimulatedModule | None]) -> SimulatedMachine:
    """Return the Larkfield S1 of the visitor kiosk."""
    banks = {"DIMM 0": "Channel A", "DIMM 1": "Channel B"}
    return SimulatedMachine("Larkfield", "Larkfield S1", "1.31", slots, 32 * GIB_IN_MIB, banks=banks, serial="LS1-3309")


def ddr5(size_gib: int, serial: str, part: str = "BW5-4800-8", rate: int = 4800) -> SimulatedModule:
    """Return a Brackwater DDR5 module."""
    return module(size_gib, "DDR5", "UDIMM", rate, maker="Brackwater", part=part, serial=serial, configured_mv=1100)


SOLDERED = module(8, "DDR4", "soldered", 3200, maker="Tarnhollow", part="TH4-M8")
ADDED = module(8, "DDR4", "SODIMM", 3200, maker="Quillmark", part="QM4S-3200-8", serial="51C0A7D2")
SMALL = module(4, "DDR4", "SODIMM", 2400, maker="Ostrel", part="OS4S-2400-4", serial="11D07A02")
LARGE = module(16, "DDR4", "SODIMM", 2400, maker="Quillmark", part="QM4S-2400-16", serial="62E4B118", ranks=2)

TREES: dict[str, tuple[SimulatedMachine, int]] = {
    "0417/arrival": (tower({"A1": None, "A2": ddr5(8, "30A1F204"), "B1": None, "B2": ddr5(8, "30A1F20B")}), 16_250_112),
    "0418/arrival": (laptop({"ChannelA-DIMM0": SOLDERED, "ChannelB-DIMM0": None}), 7_996_420),
    "0418/fitted": (laptop({"ChannelA-DIMM0": SOLDERED, "ChannelB-DIMM0": ADDED}), 16_240_916),
    "0419/arrival": (server(None, "AEBF"), 131_729_400),
    "0419/fitted": (server("D1", "ABCDEFGH"), 230_781_100),
    "0420/arrival": (kiosk({"DIMM 0": SMALL, "DIMM 1": None}), 3_925_448),
    "0420/fitted": (kiosk({"DIMM 0": SMALL, "DIMM 1": LARGE}), 20_407_532),
}
"""Machine and MemTotal in kB of each tree."""


def write_tree(folder: Path, machine: SimulatedMachine, mem_total_kib: int) -> None:
    """Write one copied tree."""
    dmi = folder / "sys" / "firmware" / "dmi" / "tables"
    dmi.mkdir(parents=True, exist_ok=True)
    table = tables(machine)
    (dmi / "DMI").write_bytes(table)
    (dmi / "smbios_entry_point").write_bytes(entry_point(table))
    proc = folder / "proc"
    (proc / "sys" / "kernel").mkdir(parents=True, exist_ok=True)
    free_kib = mem_total_kib * 7 // 10
    (proc / "meminfo").write_text(f"MemTotal:       {mem_total_kib:>9} kB\nMemFree:        {free_kib:>9} kB\n")
    (proc / "cpuinfo").write_text(f"processor\t: 0\nmodel name\t: {machine.processor}\nflags\t\t: fpu sse sse2 ht lm\n")
    (proc / "sys" / "kernel" / "arch").write_text("x86_64\n")


if __name__ == "__main__":
    for name, (machine, mem_total_kib) in TREES.items():
        write_tree(SAMPLES / name, machine, mem_total_kib)
        print(SAMPLES / name)
