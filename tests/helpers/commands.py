"""Running the commands as a shell does."""

from __future__ import annotations

import contextlib
import io
import subprocess
import sys

from after_check.cli.entry import main


def run(*arguments, **more):
    return subprocess.run(
        [sys.executable, "-m", "after_check", *arguments], capture_output=True, text=True, timeout=180, check=False, **more
    )


def run_here(*arguments):
    """Run a command in this process, where it is the work of many commands that counts and not their start."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(list(arguments))
    return subprocess.CompletedProcess(arguments, code, out.getvalue(), err.getvalue())
