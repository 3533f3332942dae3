"""The wheel alone: what it holds is enough, away from this folder, as an installer of applications would set it up."""

from __future__ import annotations

import shutil
import subprocess
import sys
import sysconfig
import venv
from pathlib import Path

import pytest

PROJECT = Path(__file__).parent.parent


@pytest.fixture
def program(tmp_path_factory):
    """The program of a wheel in an environment of its own; what it needs of others is lent, as it is large."""
    folder = tmp_path_factory.mktemp("wheel")
    shutil.copytree(PROJECT / "src", folder / "project" / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(PROJECT / name, folder / "project" / name)
    pip = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check"]
    made = [*pip, "wheel", "--no-deps", "--no-build-isolation", "--no-index", "--wheel-dir", str(folder), str(folder / "project")]
    subprocess.run(made, check=True, capture_output=True, timeout=120)
    (wheel,) = folder.glob("*.whl")
    venv.create(folder / "own", with_pip=False)
    own = folder / "own" / "lib" / f"python{sys.version_info.major}.{sys.version_info.minor}" / "site-packages"
    subprocess.run([*pip, "install", "--no-deps", "--no-index", "--no-compile", "--target", str(own), str(wheel)], check=True, timeout=120)
    lent = Path(sysconfig.get_paths()["purelib"])
    for package in lent.iterdir():
        if "after_check" not in package.name and not (own / package.name).exists():
            (own / package.name).symlink_to(package)
    return folder / "own" / "bin" / "python"


def run(program, *arguments, home):
    return subprocess.run(
        [program, "-P", "-m", "after_check", *arguments],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
        cwd=home,
        env={"HOME": str(home), "PATH": "/usr/bin:/bin"},
    )


CALLS = [
    (("--version",), 0, "after-check "),
    (("explain", "two sticks of 8gb ddr4"), 0, "2x8G DDR4"),
    (("collector", "--for", "sh"), 0, "#!/bin/sh"),
    (("collector", "--for", "powershell"), 0, "Win32_"),
    (("handback", "0417", "--demo", "--pdf", "sheet.pdf"), 0, "sheet.pdf"),
    (("shop", "check"), 0, "there is no shop yet"),
]
"""What is asked of the program, its exit code, and a part of its answer: each needs files that are no code."""


def test_a_wheel_has_all_that_the_program_needs(program, tmp_path):
    where = [program, "-P", "-c", "import after_check; print(after_check.__file__)"]
    assert str(PROJECT) not in subprocess.run(where, capture_output=True, text=True, check=True, cwd=tmp_path).stdout
    for arguments, code, says in CALLS:
        done = run(program, *arguments, home=tmp_path)
        assert (done.returncode, says in done.stdout) == (code, True), (arguments, done.stderr or done.stdout)
