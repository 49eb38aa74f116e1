"""The review page, driven in a real browser: answered by keys, kept, saved, taken in; and what it shows of notes."""

import json
import shutil
from contextlib import suppress
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from ezvar.core import edits
from ezvar.core.model import Mark, ReviewNote
from ezvar.core.planning import handed_out, taken_in
from ezvar.core.review import Asked

HOSTILE = "</script><script>document.title='taken'</script><img src=x onerror=\"document.title='taken'\">"

pytestmark = pytest.mark.skipif(
    shutil.which("chromedriver") is None, reason="there is no browser here that can be driven (chromium-driver)"
)


@pytest.fixture(scope="module")
def handed(planned, tmp_path_factory):
    """The edit of four shots with a hostile note, handed out with its page."""
    shot, master = planned.shots[1], planned.masters[0]
    marks = (Mark(((0.1, 0.1), (0.5, 0.5))),)
    note = ReviewNote(
        "n1", shot.id, master.id, 0, 20, HOSTILE[:60], "2026-01-31T12:00:00Z", HOSTILE + "\n'\"&", marks=marks
    )
    doc, files = handed_out(edits.say_note(planned, note), tmp_path_factory.mktemp("page"), Asked(frozenset({"page"})))
    return doc, next(f for f in files if f.suffix == ".html")


@pytest.fixture
def browse(tmp_path):
    """Opens browsers that share what they keep, and save files into the folder."""
    opened = []

    def start(size=(1280, 800), before=""):
        options = webdriver.ChromeOptions()
        for word in ("headless=new", "no-sandbox", "disable-gpu", "disable-dev-shm-usage"):
            options.add_argument(f"--{word}")
        options.add_argument(f"--window-size={size[0]},{size[1]}")
        options.add_argument(f"--user-data-dir={tmp_path / 'kept'}")
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        driver = webdriver.Chrome(options, webdriver.ChromeService(shutil.which("chromedriver")))
        opened.append(driver)
        # A preference may be lost, while the browser before still writes what they share.
        driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(tmp_path)})
        if before:
            driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": before})
        return driver

    yield start
    for driver in opened:
        driver.quit()


def show(driver, page):
    driver.get(page.as_uri())
    WebDriverWait(driver, 60).until(lambda d: d.execute_script("return document.body.dataset.ready") == "yes")
    return driver.find_element(By.TAG_NAME, "body")


def close(driver, kept):
    """Close the browser as a person would, and wait until it has ended: one that is killed loses what was said last."""
    browser = Path("/proc") / (kept / "SingletonLock").readlink().name.rpartition("-")[2] / "stat"

    def ended(_):
        with suppress(FileNotFoundError, ProcessLookupError):
            return browser.read_text().rpartition(")")[2].split()[0] == "Z"
        return True

    with suppress(WebDriverException):  # there may be nobody left to answer
        driver.execute_cdp_cmd("Browser.close", {})
    WebDriverWait(driver, 60).until(ended)
    driver.quit()


def said(driver, name):
    return driver.find_element(By.ID, name).text


def test_it_is_answered_by_keys_kept_and_saved_and_what_was_said_is_taken_in(handed, browse, tmp_path):
    doc, page = handed
    driver = browse()
    body = show(driver, page)
    assert (said(driver, "name"), said(driver, "told")) == (doc.lock.name, "")
    assert "4 open" in said(driver, "counts")
    body.send_keys(Keys.ARROW_DOWN, Keys.ARROW_RIGHT, Keys.ARROW_LEFT, "a")
    assert said(driver, "title") == "Shot 2 in 9:16"
    assert ("1 agreed, 3 open" in said(driver, "counts"), said(driver, "told")) == (True, "")
    body.send_keys(Keys.ARROW_DOWN, "c", ".", ".", "w")
    field = driver.switch_to.active_element
    field.send_keys("Nearer, إلى اليسار", Keys.CONTROL, Keys.ENTER)
    assert "name" in said(driver, "told")  # somebody says it
    driver.find_element(By.ID, "author").send_keys("Director", Keys.ESCAPE)
    driver.find_element(By.ID, "say").click()
    assert "Nearer, إلى اليسار" in said(driver, "notes")
    body.send_keys("f", "f")  # what is open, what is agreed
    assert said(driver, "title") == "Shot 2 in 9:16"
    close(driver, tmp_path / "kept")  # another day
    driver = browse()
    body = show(driver, page)
    assert "1 agreed, 1 change, 2 open" in said(driver, "counts")
    body.send_keys("s")
    saved = tmp_path / "walk review by Director.json"
    WebDriverWait(driver, 60).until(lambda _: saved.exists())
    merged, taken = taken_in(doc, saved)
    assert taken.problems == ()
    assert [merged.framing(s.id, doc.masters[0].id).verdict for s in doc.shots] == ["open", "agreed", "change", "open"]
    assert merged.framings[0].panes == doc.framings[0].panes
    (new,) = taken.notes
    assert (new.text, new.author, new.shot) == ("Nearer, إلى اليسار", "Director", doc.shots[2].id)
    assert (new.start, new.end) == (11, 12)  # two frames after the middle


def test_notes_are_text_and_their_drawings_are_shown_and_drawn(handed, browse):
    doc, page = handed
    driver = browse()
    body = show(driver, page)
    body.send_keys(Keys.ARROW_DOWN)
    assert HOSTILE in said(driver, "notes")
    assert driver.title == doc.lock.name
    lines = driver.find_elements(By.CSS_SELECTOR, "#moving polyline")
    assert [line.get_attribute("points") for line in lines] == ["10,10 50,50"]
    body.send_keys("d")
    over = driver.find_elements(By.CSS_SELECTOR, "#moving svg")[1]
    hand = webdriver.ActionChains(driver).move_to_element(over).click_and_hold()
    hand.move_by_offset(10, 10).move_by_offset(5, -5).release().perform()
    assert len(driver.find_elements(By.CSS_SELECTOR, "#moving polyline")) == 2
    driver.find_element(By.ID, "author").send_keys("A", Keys.ESCAPE)
    driver.find_element(By.ID, "say").click()
    marks = driver.execute_script("return answer().masters[0].notes[0].note.marks[0].points")
    assert len(marks) >= 3
    assert marks[0] == pytest.approx([0.5, 0.5], abs=0.02)
    assert [entry for entry in driver.get_log("browser") if entry["level"] == "SEVERE"] == []
    body.send_keys(" ")  # its pictures move, and come round
    WebDriverWait(driver, 60).until(lambda d: d.execute_script("return movies.get('edit').currentTime") > 0.9)
    assert driver.execute_script("return here.frame") < doc.shots[1].frames


def test_where_the_browser_keeps_nothing_it_says_so_and_what_was_saved_is_taken_up(handed, browse, tmp_path):
    _, page = handed
    refuses = "IDBFactory.prototype.open = () => { throw new Error('refused'); };"
    driver = browse((480, 900), refuses)
    show(driver, page)
    assert "keeps nothing" in said(driver, "told")
    wide = driver.execute_script("return [document.body.scrollWidth, innerWidth]")
    assert wide[0] <= wide[1]
    told = driver.execute_script("sayVerdict('agreed'); return answer()")
    (tmp_path / "before.json").write_text(json.dumps(told))
    driver.quit()
    driver = browse((480, 900), refuses)
    show(driver, page)
    driver.find_element(By.ID, "file").send_keys(str(tmp_path / "before.json"))
    WebDriverWait(driver, 60).until(lambda d: "1 agreed" in said(d, "counts"))
    (tmp_path / "other.json").write_text(json.dumps({**told, "lock": {**told["lock"], "identity": "another"}}))
    driver.find_element(By.ID, "file").send_keys(str(tmp_path / "other.json"))
    WebDriverWait(driver, 60).until(lambda d: "nothing that was said" in said(d, "told"))
