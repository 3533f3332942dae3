"""Modules and their temperatures as the Linux kernel's drivers show them.

Public interfaces: `/sys/bus/i2c/drivers/{ee1004,spd5118,at24}/BUS-00ADDRESS/eeprom`, and the hwmon class
(kernel document Documentation/hwmon/sysfs-interface) for the sensors `jc42` and `spd5118`.
"""

from __future__ import annotations

import re

from after_check.domain.facts import Fact, Source
from after_check.domain.outside_text import clean_bytes
from after_check.domain.readings import Notice, NoticeKind, SpdEntry, Temperature
from after_check.files.tree import Files, UnreadableError
from after_check.sources import machine_files
from after_check.sources.evidence import RawEvidence
from after_check.sources.spd_image import module_from_spd, spd_notices
from after_check.standards.spd import decode

_DEVICE = re.compile(r"(\d{1,3})-00(5[0-7])\Z")
_MODULE_SENSORS = ("jc42", "spd5118")
_MOST_IMAGES = 64
_IMAGE_BYTES = 2048


def read_spd(files: Files, evidence: list[RawEvidence], notices: list[Notice]) -> tuple[SpdEntry, ...]:
    """Return the modules whose SPD the kernel shows, in the order of bus and address."""
    found: list[SpdEntry] = []
    for driver in machine_files.SPD_DRIVERS:
        folder = f"{machine_files.SPD_FOLDER}/{driver}"
        for device in sorted(name for name in files.names(folder) if _DEVICE.match(name)):
            if len(found) >= _MOST_IMAGES:
                return tuple(found)
            path = f"{folder}/{device}/eeprom"
            try:
                image = files.read(path, _IMAGE_BYTES)
            except UnreadableError as problem:
                kind = NoticeKind.RIGHTS if problem.reason == "rights" else NoticeKind.REMARK
                notices.append(Notice(kind, f"a module's SPD is not available: the file {problem.detail}", path, "read as root"))
                continue
            module = decode(image)
            if module is None:
                continue  # An EEPROM of something else on the same bus.
            evidence.append(RawEvidence(path, image))
            notices += spd_notices(module, path)
            found.append(SpdEntry(device, module_from_spd(module, path)))
    return tuple(found)


def read_temperatures(files: Files, evidence: list[RawEvidence]) -> tuple[Temperature, ...]:
    """Return the temperatures of module sensors, in °C, with the device that the sensor sits on."""
    found: list[Temperature] = []
    for name in sorted(files.names(machine_files.SENSORS))[:_MOST_IMAGES]:
        folder = f"{machine_files.SENSORS}/{name}"
        sensor = _small(files, f"{folder}/name", evidence)
        if sensor not in _MODULE_SENSORS:
            continue
        value = _small(files, f"{folder}/temp1_input", evidence)
        if re.fullmatch(r"-?\d{1,6}", value):
            found.append(Temperature(f"{sensor} {name}", Fact(int(value) / 1000, Source.SYSTEM, f"{folder}/temp1_input")))
    return tuple(found)


def _small(files: Files, name: str, evidence: list[RawEvidence]) -> str:
    try:
        data = files.read(name, 256)
    except UnreadableError:
        return ""
    evidence.append(RawEvidence(name, data))
    return clean_bytes(data)
