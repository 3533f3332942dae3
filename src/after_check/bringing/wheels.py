"""The libraries that After Check needs, as wheels for another machine, kept on this one for the next time.

Wheels are zip files (the binary distribution format, PEP 427); which one fits a machine its tags say (PEP 425).
"""

from __future__ import annotations

import hashlib
import re
import subprocess
import sys
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path

from platformdirs import user_cache_path

import after_check
from after_check.domain.errors import AfterCheckError

_LEFT_OUT = ("psycopg", "keyring")
"""What only a bench needs: a server's database, the person's own store of passwords."""


class NotBroughtError(AfterCheckError):
    """The program cannot be brought along; the message says why and what would help."""


@dataclass(frozen=True, slots=True)
class TargetKind:
    """A kind of machine: its Python as major and minor number, and its processor as the system names it."""

    python: tuple[int, int] = (3, 11)
    processor: str = "x86_64"

    @property
    def words(self) -> str:
        """The kind in words."""
        return f"Python {self.python[0]}.{self.python[1]} on {self.processor}"

    @property
    def platforms(self) -> tuple[str, ...]:
        """Its platform tags (PEP 600), from those that most systems have to those that few have."""
        named = (f"manylinux_{major}_{minor}_{self.processor}" for major, minor in ((2, 17), (2, 24), (2, 27), (2, 28)))
        return (*named, f"manylinux2014_{self.processor}")


def needed() -> tuple[str, ...]:
    """Return what After Check names as needed, as requirements: `numpy>=2.4,<3`."""
    lines = [line for line in metadata.requires("after-check") or () if "extra ==" not in line]
    return tuple(sorted(line for line in lines if not line.startswith(_LEFT_OUT)))


def pinned() -> tuple[str, ...]:
    """Return every library that is installed here, at its version: the other machine gets the same ones."""
    found = {_plain(one.metadata["Name"]): one.version for one in metadata.distributions() if one.metadata["Name"]}
    return tuple(f"{name}=={version}" for name, version in sorted(found.items()) if name != "after-check")


def wheels_for(kind: TargetKind, folder: Path | None = None, tell: Callable[[str], object] = lambda words: None) -> tuple[Path, ...]:
    """Return wheels of everything needed on a kind of machine; what is not kept here yet is fetched. Raises NotBroughtError."""
    wanted, versions = needed(), "\n".join(pinned())
    name = hashlib.sha256("\n".join((kind.words, *wanted, versions)).encode()).hexdigest()[:16]
    place = (folder or user_cache_path("after-check") / "wheels") / name
    done = place / "complete"
    if not done.exists():
        place.mkdir(parents=True, exist_ok=True)
        tell(f"fetching libraries for {kind.words}")
        (place / "versions.txt").write_text(versions)
        platforms = [word for platform in kind.platforms for word in ("--platform", platform)]
        version = ".".join(str(part) for part in kind.python)
        command = [sys.executable, "-m", "pip", "download", "--quiet", "--only-binary=:all:", "--disable-pip-version-check"]
        command += ["--implementation", "cp", "--python-version", version, *platforms, "--dest", str(place)]
        command += ["--constraint", str(place / "versions.txt"), *wanted]
        try:
            subprocess.run(command, check=True, capture_output=True, text=True)
        except OSError as error:
            raise NotBroughtError(f"the libraries cannot be fetched ({error.strerror})") from None
        except subprocess.CalledProcessError as error:
            said = [line for line in (error.stderr or "").splitlines() if line.startswith("ERROR")]
            why = re.sub(r"\s+", " ", said[0] if said else "no reason given")[:200]
            raise NotBroughtError(f"the libraries for {kind.words} cannot be fetched: {why}. Is this computer on the network?") from None
        done.write_text("\n".join(wanted))
    return tuple(sorted(place.glob("*.whl")))


def unpack(wheels: Iterable[Path], site: Path) -> None:
    """Unpack wheels, and After Check itself, into a folder that Python can import from. Raises OSError."""
    site.mkdir(parents=True, exist_ok=True)
    for wheel in wheels:
        with zipfile.ZipFile(wheel) as archive:
            archive.extractall(site, [name for name in archive.namelist() if not _is_outside(name)])
    for name, data in own_files():
        path = site / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)


def own_files() -> Iterable[tuple[str, bytes]]:
    """Yield the program's own files: their names beneath a folder for imports, and their bytes."""
    package = Path(after_check.__file__).parent
    for path in sorted(package.rglob("*")):
        if path.is_file() and "__pycache__" not in path.parts:
            yield f"after_check/{path.relative_to(package).as_posix()}", path.read_bytes()


def _is_outside(name: str) -> bool:
    return name.startswith("/") or ".." in name.split("/")


def _plain(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()
