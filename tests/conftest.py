"""Shared fixtures: the demo collection (made once), servers and browsers."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from tests.running import Server, make_browser
from vinyl.demo.collection import make_collection

# Modules that take longest: begun last, one of two processes would end alone with them.
LONGEST = (
    "test_layout", "test_twins_killed", "test_power_cuts", "test_arrivals", "test_when_things_go_wrong",
    "test_shelf", "test_background", "test_killed_any_time", "test_folder_to_stick", "test_commonest_loop",
    "test_hard_hearing", "test_prepare_by_key", "test_tempo_course", "test_twins", "test_sticks",
)  # fmt: skip


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    places = {name: place for place, name in enumerate(LONGEST)}
    items.sort(key=lambda item: places.get(item.path.stem, len(LONGEST)))


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with ``music`` and ``truth.json``; VINYL_DEMO names one to use again."""
    folder = Path(os.environ.get("VINYL_DEMO") or tmp_path_factory.mktemp("collection"))
    make_collection(folder)
    return folder


@pytest.fixture(scope="session")
def demo_home(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A home in which ``demo`` finds its collection already made, so that it starts at once."""
    home = tmp_path_factory.mktemp("home")
    shutil.copytree(demo, home / "demo", copy_function=os.link)
    return home


@pytest.fixture
def browser(tmp_path: Path) -> Iterator[webdriver.Chrome]:
    driver = make_browser(tmp_path / "profile")
    yield driver
    driver.quit()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    """A server over an empty home that may read the test's own folder."""
    running = Server(tmp_path / "home", "--allow", str(tmp_path))
    yield running.start()
    running.stop()
