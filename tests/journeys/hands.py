"""What a person does with a page: look, click, type, drag."""

from __future__ import annotations

from pathlib import Path

from selenium import webdriver
from selenium.common.exceptions import ElementClickInterceptedException, StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.patience import wait_for
from tests.running import Server

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
FIND_FAULTS = """
  const done = arguments[0];
  const short = ({ html }) => html.slice(0, 90) + html.slice(-140);
  const html = (nodes) => nodes.slice(0, 3).map(short).join(" | ");
  axe.run(document, { resultTypes: ["violations"] }).then(({ violations }) => done(violations
    .filter(({ impact }) => impact === "serious" || impact === "critical")
    .map(({ id, nodes }) => `${id}: ${html(nodes)}`)));
"""
# A menu that is still growing would be pressed beside what was meant.
WAIT_FOR_MOVES = (
    "if (document.getAnimations().some(each => each.playState === 'running' "
    "&& each.transitionProperty === 'transform')) return null;"
)
SERVER_GONE = (
    "ERR_CONNECTION_REFUSED",
    "ERR_CONNECTION_RESET",
    "ERR_INCOMPLETE_CHUNKED_ENCODING",
    "ERR_EMPTY_RESPONSE",
)


class Hands:
    def __init__(self, browser: webdriver.Chrome, server: Server) -> None:
        self.browser = browser
        self.server = server

    def go(self, path: str) -> None:
        """Open a page, by the key that the launcher prints."""
        self.browser.get(f"{self.server.address}{path}{'&' if '?' in path else '?'}key={self.server.key}")

    def all(self, css: str) -> list[WebElement]:
        return self.browser.find_elements(By.CSS_SELECTOR, css)

    def see(self, css: str, seconds: float = 90.0) -> WebElement:
        """The first visible element, waited for."""
        return wait_for(lambda: self._first_visible(css), css, seconds)

    def _first_visible(self, css: str) -> WebElement | None:
        try:
            return next((element for element in self.all(css) if element.is_displayed()), None)
        except StaleElementReferenceException:  # it was drawn anew between finding and looking
            return None

    def see_text(self, text: str, seconds: float = 90.0) -> None:
        """Wait until a text stands on the page."""
        wait_for(
            lambda: text in self.text(),
            lambda: f"“{text}” on the page, which says: {self.text()[:1500]}",
            seconds,
        )

    def text(self, css: str = "body") -> str:
        return str(
            self.browser.execute_script("return document.querySelector(arguments[0])?.innerText ?? ''", css)
        )

    def texts(self, css: str) -> list[str]:
        return list(
            self.browser.execute_script(
                "return [...document.querySelectorAll(arguments[0])].map(e => e.innerText)", css
            )
        )

    def faults(self) -> list[str]:
        """What of the page cannot be used by ear or by keyboard, by the worse of axe's rules."""
        still = "return document.getAnimations().every(each => each.playState !== 'running')"
        # Colours on their way from one to another are no colours yet.
        wait_for(lambda: self.browser.execute_script(still), "all to stand still")
        self.browser.execute_script(AXE.read_text())
        return list(self.browser.execute_async_script(FIND_FAULTS))

    def click(self, css: str) -> None:
        self._click(lambda: self.see(css), css)

    def write_in(self, css: str, *keys: str) -> None:
        """Type into a field in place of what it says, once a click has met it."""

        def has_focus() -> bool:
            self.click(css)
            return bool(self.browser.switch_to.active_element == self.see(css))

        wait_for(has_focus, f"the focus in {css}")
        self.chord(Keys.CONTROL, "a")
        self.keys(*keys)

    def press_button(self, name: str) -> None:
        """Click the button or link whose text begins with a name."""
        script = (
            f"{WAIT_FOR_MOVES} return [...document.querySelectorAll('button, a, label, [role=button], "
            "[role=menuitem]')].filter(e => e.offsetParent && "
            "!e.disabled && (e.innerText.trim().startsWith(arguments[0]) || e.ariaLabel === "
            "arguments[0])).at(-1)"
        )
        self._click(
            lambda: wait_for(
                lambda: self.browser.execute_script(script, name),
                lambda: f"the button “{name}”; the page says: {self.text()[:800]}",
            ),
            name,
        )

    def press_option(self, name: str) -> None:
        """Choose an option of the open list."""
        script = (
            f"{WAIT_FOR_MOVES} return [...document.querySelectorAll('[role=option]')]"
            ".find(e => e.innerText.trim() === arguments[0])"
        )
        self._click(
            lambda: wait_for(lambda: self.browser.execute_script(script, name), f"the option {name}"), name
        )

    def press_until(self, name: str, text: str) -> None:
        """Press a button, again if the page moved away under the finger, until a text stands on the page."""

        def attempt() -> bool:
            self.press_button(name)
            try:
                self.see_text(text, 8)
            except AssertionError:
                return False
            return True

        wait_for(attempt, f"“{text}” after pressing “{name}”", 120)

    def _click(self, find: object, what: str) -> None:
        def attempt() -> bool:
            try:
                find().click()  # type: ignore[operator]
            except (ElementClickInterceptedException, StaleElementReferenceException):
                return False
            return True

        wait_for(attempt, f"a click on {what}")

    def keys(self, *keys: str) -> None:
        """Press keys wherever the focus is, one after the other."""
        for key in keys:
            ActionChains(self.browser).send_keys(key).perform()

    def chord(self, modifier: str, key: str) -> None:
        ActionChains(self.browser).key_down(modifier).send_keys(key).key_up(modifier).perform()

    def drag(self, source: WebElement, css_of_target: str, typing: str = "") -> None:
        """Pick up, move a little, move over the target once it is there, and let go when the page says so.

        Args:
            typing: what is typed while the hand holds it.
        """
        ActionChains(self.browser).move_to_element(source).click_and_hold().move_by_offset(0, 12).perform()
        if typing:
            self.see("[data-testid=crate-drop]")
            self.keys(*typing)
        target = self.see(css_of_target)
        place = target.get_attribute("data-drop") or target.get_attribute("data-track")
        told = "return document.querySelector('[id^=DndLiveRegion]')?.textContent ?? ''"

        def is_over() -> bool:
            ActionChains(self.browser).move_to_element(target).move_by_offset(0, 2).perform()
            return f"over droppable area {place}." in self.browser.execute_script(told)

        wait_for(is_over, lambda: f"being over {place}; said is {self.browser.execute_script(told)!r}")
        ActionChains(self.browser).release().perform()

    def find(self, text: str) -> None:
        """Search the Shelf, in place of what was searched before."""
        self.keys("/")
        self.chord(Keys.CONTROL, "a")
        self.keys(*text, Keys.ENTER)
        wait_for(lambda: all(text in title for title in self.titles()), f"only rows with {text}")

    def row(self, title: str) -> WebElement:
        """The table row of a track."""
        found = (
            "return [...document.querySelectorAll('[role=row][data-track]')].find(r => "
            "r.innerText.includes(arguments[0]))"
        )
        return wait_for(lambda: self.browser.execute_script(found, title), f"the row of {title}")

    def titles(self) -> list[str]:
        """Titles of the rows in sight that are filled, from the top."""
        script = (
            "return [...document.querySelectorAll('[role=row][data-track]')].sort((a, b) => a.ariaRowIndex "
            "- b.ariaRowIndex)"
            ".map(r => r.querySelector('.title')?.firstChild?.textContent ?? '')"
        )
        return [title for title in self.browser.execute_script(script) if title]

    def position_s(self) -> float:
        """Where the Workbench says that the sound is."""
        return float(self.see("canvas[aria-label='Close-up']").get_attribute("aria-valuenow") or "nan")

    def complaints(self) -> list[str]:
        """What the browser logged as errors, but for requests that found the server stopped."""
        errors = [entry["message"] for entry in self.browser.get_log("browser") if entry["level"] == "SEVERE"]
        return [error for error in errors if not any(gone in error for gone in SERVER_GONE)]
