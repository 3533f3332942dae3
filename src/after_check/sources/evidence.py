"""A reading with the raw bytes that it was decoded from."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace

from after_check.domain.readings import EvidenceRef, Reading

PHOTO = "photo"
"""The name of a picture as evidence."""


@dataclass(frozen=True, slots=True)
class RawEvidence:
    """Bytes as they were read, under the name of the place they came from."""

    name: str
    data: bytes

    @property
    def sha256(self) -> str:
        """SHA-256 of the bytes, in hexadecimal."""
        return hashlib.sha256(self.data).hexdigest()

    def ref(self) -> EvidenceRef:
        """Return what a reading says of this evidence."""
        return EvidenceRef(self.name, self.sha256, len(self.data))


@dataclass(frozen=True, slots=True)
class Taken:
    """A reading and its evidence; the reading refers to exactly this evidence."""

    reading: Reading
    evidence: tuple[RawEvidence, ...] = ()


def with_evidence(reading: Reading, evidence: tuple[RawEvidence, ...]) -> Taken:
    """Return the reading, referring to its evidence."""
    return Taken(replace(reading, evidence=tuple(part.ref() for part in evidence)), evidence)
