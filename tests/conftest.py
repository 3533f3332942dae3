"""What all tests share: a shop in a temporary folder, and settings that touch nothing of the person who runs them."""

from __future__ import annotations

import gc
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from textual import _wait

from after_check.shop.shop import Shop
from tests.helpers.demo import put_demo
from tests.helpers.needs import IN_CI
from tests.postgres import Server

# Where a change is let in or not, the same change must get the same answer; everywhere else chance may search on.
settings.register_profile("suite", deadline=None, suppress_health_check=[HealthCheck.too_slow], print_blob=True, derandomize=IN_CI)
settings.load_profile("suite")

# The toolkit looks every 20 ms whether an application that is driven has come to rest; tests wait for what they want anyway.
_wait.SLEEP_GRANULARITY, _wait.SLEEP_IDLE = 1 / 200, 1 / 1000

SAMPLES = Path(__file__).parent.parent / "src" / "after_check" / "samples"


def pytest_collection_finish():
    # What was collected stays until the end, and is not looked through for garbage again and again.
    gc.freeze()


@pytest.fixture(scope="session")
def anyio_backend():
    """The event loop that tests of the interface run in: the toolkit's own."""
    return "asyncio"


@pytest.fixture(autouse=True)
def own_home(tmp_path, monkeypatch):
    monkeypatch.setenv("HOME", str(tmp_path / "home"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.delenv("AFTER_CHECK_SHOP", raising=False)
    monkeypatch.chdir(tmp_path)  # what is written to a name without a folder lands nowhere else


@pytest.fixture
def shop_path(tmp_path):
    return tmp_path / "shop" / "shop.db"


@pytest.fixture
def shop(shop_path):
    shop = Shop.open(shop_path)
    yield shop
    shop.close()


@pytest.fixture
def demo_shop(shop_path):
    """The demo shop, in a file of the test's own."""
    shop = Shop.open(put_demo(shop_path))
    yield shop
    shop.close()


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    """A PostgreSQL server of the module's own."""
    one = Server(tmp_path_factory.mktemp("server"))
    one.start()
    yield one
    one.stop()
