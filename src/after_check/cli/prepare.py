"""Compiles the loops of tests and benchmarks before somebody waits for them: `python -m after_check.cli.prepare`.

Run when After Check is installed, and behind the first screen where it was installed in another way.
"""

from __future__ import annotations

from after_check.benchmark.kernels import prepare as prepare_benchmark
from after_check.local.compiled import is_compiled, mark_compiled
from after_check.soak.prepare import prepare as prepare_soak


def main() -> None:
    """Compile what is not compiled yet."""
    if not is_compiled():
        prepare_soak()
        prepare_benchmark()
        mark_compiled()


if __name__ == "__main__":
    main()
