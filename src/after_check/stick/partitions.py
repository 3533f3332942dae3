"""How a stick is laid out: its two partitions, and what lies in the one that any system can read.

The first partition holds jobs and results, on FAT, which every system reads. The second one holds the system that
boots; it is never written to after it was made.
"""

from __future__ import annotations

DATA_LABEL, SYSTEM_LABEL = "AFTERCHECK", "AFTERBOOT"
"""Names of the partitions (FAT: eleven capital letters at the most)."""
FOLDER = "after-check"
"""The folder on the data partition in which everything of this program lies."""
JOBS, CARDS, RUNNING = "jobs", "data-sheets", "running"
SETTINGS, SHOP, SHOP_ENV = "settings.toml", "shop.json", "start.env"
FIRST_WINDOW_MIB = 384
"""How much of the memory the booted system is given. The rest is tested as a whole."""
FIRST_WINDOW = f"mem={FIRST_WINDOW_MIB}M"
