"""What journeys share: a browser that a module's tests use one after the other."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from selenium import webdriver

from tests.running import make_browser


@pytest.fixture(scope="module")
def shared_browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[webdriver.Chrome]:
    driver = make_browser(tmp_path_factory.mktemp("profile") / "profile")
    driver.set_script_timeout(60)
    yield driver
    driver.quit()
