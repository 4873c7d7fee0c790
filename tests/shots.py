"""``./vinyl shots``: docs/screenshots from the demo data, taken by going through the rooms as a DJ does."""

from __future__ import annotations

import shutil
import sys
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server, make_browser
from vinyl.demo.collection import make_collection

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
WARM_UP = (
    "灯台の朝",
    "Slow Ferry (Dub)",
    "Warm Engine Room",
    "Ballroom on the Pier",
    "Harbour Clock",
    "Ultramarine Hours",
    "Last Boat Home",
)
MAIN = (
    "Copper Tide",
    "Lantern Weather",
    "Nine Steps to the Water",
    "Foghorn Romance",
    "Breakwater",
    "Paraffin",
    "Salt Arithmetic",
    "Pilot Light",
)
LATE = ("Ånd i Tåken", "Bilge Echo", "Customs House Version")
CUES = (
    {"position_s": 0, "role": "in", "label": "In"},
    {"position_s": 31, "role": "main", "label": "Main", "pad": 1},
    {"position_s": 93, "label": "Break, strings", "pad": 2, "colour": "blue"},
    {"position_s": 108.4, "label": "Build", "pad": 3, "colour": "green"},
    {"position_s": 124, "label": "Second main", "pad": 4, "colour": "ink"},
    {"position_s": 154.8, "label": "Loop to mix out", "pad": 5, "length_beats": 16, "colour": "ochre"},
    {"position_s": 176, "role": "out", "label": "Out"},
)


def main() -> int:
    FOLDER.mkdir(parents=True, exist_ok=True)
    folder = Path(tempfile.gettempdir()) / "slipway"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir()
    make_collection(folder / "vinyl" / "demo")
    server = Server(folder / "vinyl", "--bare", "--allow", str(folder), command="demo")
    with tempfile.TemporaryDirectory() as profile:
        server.start()
        browser = make_browser(Path(profile))
        try:
            Shots(Hands(browser, server), server).take_all()
        finally:
            browser.quit()
            server.stop()
            shutil.rmtree(folder)
    return 0


STILL = """
  const loading = [...document.images].some((image) => !image.complete);
  const moving = document.getAnimations().some(({ playState }) => playState === "running");
  return !loading && !moving && document.fonts.status === "loaded";
"""
TAGGED = {
    "Strings": ("Copper Tide", "Lantern Weather", "Foghorn Romance", "Harbour Clock"),
    "Vocal": ("Foghorn Romance", "Harbour Clock", "Sea Glass Letters"),
    "Warm": ("Copper Tide", "Warm Engine Room", "Ultramarine Hours"),
    "Percussive": ("Salt Arithmetic", "Breakwater", "Rope & Tar"),
    "Opener": ("Warm Engine Room", "Ultramarine Hours"),
    "Peak": ("Copper Tide", "Salt Arithmetic", "Breakwater"),
    "Closing": ("Last Boat Home",),
}


class Shots:
    def __init__(self, you: Hands, server: Server) -> None:
        self.you = you
        self.server = server

    def take_all(self) -> None:
        self.arrivals()
        ids = self.server.ids()
        crates = [
            self.crate(name, ids, titles)
            for name, titles in (
                ("Slipway Friday, warm-up", WARM_UP),
                ("Slipway Friday, main", MAIN),
                ("After hours", LATE),
            )
        ]
        for cue in CUES:
            self.server.send("POST", f"/api/tracks/{ids['Copper Tide']}/cues", cue)
        self.describe(ids)
        self.shelf()
        self.workbench(ids)
        self.twins(ids)
        self.sets(ids)
        self.crates(crates[1])
        self.rule(crates)
        self.logbook()
        self.exchange(crates)
        self.sticks(crates[:2])
        self.player()

    def save(self, name: str) -> None:
        """A picture, once everything stands still."""
        wait_for(lambda: self.you.browser.execute_script(STILL), "everything to stand still")
        self.you.browser.save_screenshot(str(FOLDER / f"{name}.png"))
        print(f"docs/screenshots/{name}.png")

    def crate(self, name: str, ids: dict[str, int], titles: tuple[str, ...]) -> int:
        crate = int(self.server.send("POST", "/api/crates", {"name": name})["id"])
        self.server.send("POST", f"/api/crates/{crate}/tracks", {"ids": [ids[title] for title in titles]})
        return crate

    def arrivals(self) -> None:
        self.you.go("/arrivals")
        self.you.press_button("Add this folder")
        self.you.see_text("35 added", 120)
        wait_for(lambda: self.server.jobs("analysis")[0]["done"] >= 6, "some results", 120)
        self.save("arrivals")
        wait_for(lambda: self.server.has_ended("import", "analysis"), "the analysis", 240)

    def describe(self, ids: dict[str, int]) -> None:
        """Tags and plays, as a DJ would have left them."""
        send = self.server.send
        families = {family["name"]: family for family in self.server.get("/api/tag-families")}
        style = families["Style"]["id"]
        offers = self.server.get(f"/api/tag-families/{style}/offers")
        send("POST", f"/api/tag-families/{style}/offers", {"mapping": {o["name"]: o["name"] for o in offers}})
        send("POST", "/api/tags", {"family_id": families["Make-up"]["id"], "name": "Strings"})
        families = {family["name"]: family for family in self.server.get("/api/tag-families")}
        tags = {tag["name"]: tag["id"] for family in families.values() for tag in family["tags"]}
        for name, titles in TAGGED.items():
            tagged = {"ids": [ids[title] for title in titles], "tag_id": tags[name], "given": True}
            send("PUT", "/api/tracks/tags", tagged)
        for days, titles in ((5, MAIN), (12, MAIN[:4]), (19, WARM_UP)):
            at = (datetime.now(UTC) - timedelta(days=days)).isoformat()
            send("POST", "/api/tracks/played", {"ids": [ids[title] for title in titles], "at": at})
        send("PUT", "/api/tracks/values", {"ids": [ids["Copper Tide"]], "values": {"marks": "🌊"}})

    def shelf(self) -> None:
        self.you.go("/shelf?sort=bpm,key&bpm_from=112&bpm_to=130")
        wait_for(lambda: len(self.you.titles()) > 8, "rows")
        self.you.row("Copper Tide").click()
        self.save("shelf")
        self.you.chord(Keys.ALT, "t")
        wait_for(
            lambda: self.you.see("[data-tag='Strings']").get_attribute("aria-checked") == "true", "ticks"
        )
        self.save("tags")
        self.you.keys(Keys.ESCAPE, "f")
        self.you.see("[aria-label='Tracks that fit'] li")
        self.save("fits")
        look = {"theme": "booth", "size": "large"}
        self.you.browser.execute_script("localStorage.clear()")
        for name, value in look.items():
            self.you.browser.execute_script(f"localStorage.setItem('vinyl.{name}', '\"{value}\"')")
        self.you.go("/shelf?sort=-added_at")
        wait_for(lambda: len(self.you.titles()) > 8, "rows")
        self.save("shelf-booth-large")
        self.you.browser.execute_script("localStorage.clear()")

    def workbench(self, ids: dict[str, int]) -> None:
        self.you.go(f"/workbench/{ids['Copper Tide']}")
        self.you.see_text("Loop to mix out")
        self.you.keys("4", Keys.SPACE)
        wait_for(lambda: self.you.position_s() > 126.0, "the sound")
        self.you.keys(Keys.SPACE)
        self.save("workbench")
        self.grid(ids["Ninth Buoy"])
        self.you.browser.execute_script("localStorage.clear()")
        self.you.go(f"/workbench/{ids['Copper Tide']}")
        self.you.see_text("Loop to mix out")
        self.you.chord(Keys.SHIFT, "/")
        self.you.see("#key-sheet")
        opaque = "return getComputedStyle(document.querySelector('.MuiDialog-container')).opacity === '1'"
        wait_for(lambda: self.you.browser.execute_script(opaque), "the sheet to have come in")
        self.save("keys")

    def grid(self, track: int) -> None:
        self.you.go(f"/workbench/{track}")
        self.you.see("canvas[aria-label^='Drift']")
        self.you.press_button("Grid")
        self.you.keys("w")
        self.you.see("canvas[aria-label^='Each bar']")
        self.save("workbench-grid")

    def twins(self, ids: dict[str, int]) -> None:
        mp3, flac = sorted(row["id"] for row in self.server.tracks() if row["title"] == "Rigging")
        self.server.send("PUT", "/api/tracks/rating", {"ids": [mp3], "stars": 5})
        self.server.send("PUT", "/api/tracks/values", {"ids": [flac], "values": {"year": "2019"}})
        for cue in CUES:
            self.server.send("POST", f"/api/tracks/{mp3}/cues", cue)
        self.server.send("PUT", "/api/tracks/locks", {"ids": [mp3], "part": "cues", "locked": True})
        wait_for(lambda: self.server.has_ended("twins"), "all twins compared", 120)
        self.you.go("/twins")
        self.you.click("[data-group=Rigging]")
        self.you.see("[data-testid=carried]")
        self.you.see_text("locks of cues")
        self.save("twins")

    def sets(self, ids: dict[str, int]) -> None:
        """The next Friday, with its arc, a pin, and what goes on from a track."""
        today = datetime.now().date()
        day = today + timedelta(days=(4 - today.weekday()) % 7 or 7)
        facts = {"name": "Slipway Friday", "venue": "The Slipway", "on_day": f"{day}", "begins": "22:00"}
        made = self.server.send("POST", "/api/sets", {**facts, "ends": "23:00"})["id"]
        path = f"/api/sets/{made}"
        order = [ids[title] for title in (*WARM_UP, *MAIN[:6])]
        self.server.send("POST", f"{path}/tracks", {"ids": order, "placed": True})
        self.server.send("POST", f"{path}/tracks", {"ids": [ids[title] for title in (*MAIN[6:], *LATE)]})
        points = [
            {"share": share, "energy": energy} for share, energy in ((0, 32), (0.45, 52), (0.85, 64), (1, 45))
        ]
        self.server.send("PUT", f"{path}/arc", {"points": points})
        entries = self.server.get(path)["order"]
        said = {"pin": "first", "note": "lamps still on"}
        self.server.send("PATCH", f"{path}/entries/{entries[0]['id']}", said)
        joint = {"out_id": entries[7]["id"], "in_id": entries[8]["id"], "settings": {"over_bars": 32}}
        self.server.send("PUT", f"{path}/joint", {**joint, "note": "bring the low end in late"})
        self.you.go("/sets")
        self.you.see("[data-entry]")
        self.you.keys("y", *[Keys.ARROW_DOWN] * 8)
        self.you.see("[data-line]")
        self.save("sets")
        self.joint()

    def joint(self) -> None:
        self.you.keys(Keys.HOME, *[Keys.ARROW_DOWN] * 5, "j")
        self.you.see("[role=dialog] canvas[data-knots]")
        self.you.keys("b")
        self.you.see_text("low end changes hands")
        self.save("sets-joint")

    def crates(self, crate: int) -> None:
        for name, at, sign, colour in (("First hour", 0, "›", "blue"), ("Past one", 3, "☾", "violet")):
            divider = {"name": name, "at": at, "sign": sign, "colour": colour}
            self.server.send("POST", f"/api/crates/{crate}/dividers", divider)
        looks = {
            "colour": "violet",
            "sign": "☾",
            "note": "The lamps go down at two; nothing over 128 before.",
        }
        self.server.send("PUT", f"/api/crates/{crate}/looks", looks)
        self.you.go(f"/crates/{crate}")
        wait_for(lambda: self.you.titles() == list(MAIN), "the crate")
        self.you.row("Foghorn Romance").click()
        self.save("crates")

    def rule(self, crates: list[int]) -> None:
        """A crate that fills itself, in a folder, and why a track is not in it."""
        send = self.server.send
        folder = send("POST", "/api/crates", {"name": "Slipway Fridays", "is_folder": True})["id"]
        for crate in crates:
            send("PUT", f"/api/crates/{crate}/folder", {"folder_id": folder})
        parts = (
            {"kind": "any", "parts": [self.styled("House"), self.styled("Disco")]},
            {"kind": "between", "field": "bpm", "low": 116, "high": 126},
            {"kind": "none", "parts": [{"kind": "list", "list_id": crates[-1]}]},
        )
        order = [{"sort": "bpm"}, {"sort": "key"}]
        where = {"kind": "all", "parts": parts}
        body = {"name": "Fresh and steady", "folder_id": folder, "rule": {"where": where, "order": order}}
        made = send("POST", "/api/rules", body)["id"]
        self.you.go(f"/crates/{made}")
        self.you.row("Harbour Clock").click()
        self.you.keys("w")
        self.you.see("[aria-label=Why] input").click()
        self.you.keys(*"paraffin")
        self.you.press_option("Paraffin, Halden Pier")
        self.you.see_text("Why is Paraffin")
        self.save("crates-rule")

    def logbook(self) -> None:
        """The resident's Fridays, tidied a little."""
        gigs = self.server.get("/api/gigs")
        practice = [gig["id"] for gig in gigs if gig["looks_like_practice"]]
        self.server.send("POST", "/api/gigs/thrown-away", {"ids": practice[1:], "practice": True})
        venue = next(each for each in self.server.get("/api/venues") if each["name"] == "The Slipway")["id"]
        last, *_ = (gig["id"] for gig in gigs if gig["venue_id"] == venue)
        self.you.go(f"/logbook?venue={venue}&night={last}")
        self.you.see("[role=option][data-play]")
        self.you.keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_DOWN)
        self.you.see("[data-play][aria-selected=true]")
        self.save("logbook")
        self.you.press_button("Next list from this…")
        self.you.see("[role=listitem][data-fate=replace]")
        self.save("logbook-next")
        self.you.go("/logbook?view=year")
        self.you.see_text("Most played")
        self.save("logbook-year")

    @staticmethod
    def styled(style: str) -> dict[str, str]:
        return {"kind": "text", "field": "genre", "text": style, "how": "is"}

    def exchange(self, crates: list[int]) -> None:
        """A ledger, with one track laid over itself on the other side."""
        out = self.server.home / "demo" / "Reedbank"
        out.mkdir(exist_ok=True)
        order = {"target": "reedbank", "place": str(out), "system": "windows", "lists": crates}
        order |= {"mappings": [{"here": str(self.server.home / "demo" / "music"), "there": "D:/Music"}]}
        self.server.send("POST", "/api/exchange/destinations", {"name": "The Slipway’s PC", "order": order})
        self.you.go("/exchange")
        self.you.see("[data-kind='cues']")
        self.you.keys("o")
        self.you.write_in("[role=dialog] input[type=text]", "Copper Tide")
        self.you.press_button("Try it")
        self.you.see_text("values read back as promised")
        self.save("exchange")

    def sticks(self, crates: list[int]) -> None:
        stick = self.server.send("POST", "/api/sticks", {"name": "Slipway Friday", "capacity_mb": 1000})["id"]
        self.server.send("PUT", f"/api/sticks/{stick}/crates", {"crate_ids": crates})
        players = [{"profile": name} for name in ("Fairlead", "Windlass")]
        self.server.send("PUT", f"/api/sticks/{stick}/players", {"players": players})
        self.you.go("/sticks")
        self.you.press_button("Pack the stick")
        self.you.see_text("Packed and verified")
        self.you.press_button("Eject")
        self.you.see_text("can be taken out now")

    def player(self) -> None:
        self.you.go("/player/?as=Fairlead")
        self.you.click("[data-crate='Slipway Friday, main']")
        self.you.click("[data-track='Copper Tide']")
        wait_for(lambda: len(self.you.all(".cue")) == len(CUES), "the cues")
        wait_for(
            lambda: self.you.browser.execute_script("return document.querySelector('header img').complete"),
            "the picture",
        )
        self.you.all(".cue")[4].click()
        wait_for(lambda: float(self.you.see(".time").get_attribute("data-seconds") or 0) > 125, "the sound")
        self.save("player")
        self.you.click("[data-move='Out']")
        self.you.click("[title='4 stars']")
        self.you.click("[data-raise='Copper Tide']")
        stick = next(each for each in self.server.get("/api/sticks") if not each["is_in"])
        paper = Path(stick["folder"]) / "changes.jsonl"
        wait_for(lambda: paper.exists() and paper.read_text().count("\n") >= 2, "changes on the stick")
        self.you.go("/sticks")
        self.you.press_button("Put it into the computer")
        self.you.see_text("Came home with")
        self.save("sticks")


if __name__ == "__main__":
    sys.exit(main())
