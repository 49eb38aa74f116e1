"""Make docs/screenshots from the demo edit: one picture of each main view.

    python tools/make_screenshots.py [FOLDER]

Works without a monitor. Analysis comes from the cache where it is kept.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from PyQt6.QtCore import QCoreApplication
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QDialog

from ezvar.app.stages.review.handoff_dialog import HandoffDialog
from ezvar.app.window.machines_dialog import MachinesDialog
from ezvar.app.window.main import make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core import edits
from ezvar.core.framing import picture_size, with_key
from ezvar.core.model import Keyframe, Mark, NamedRange, ReviewNote, listed_id
from ezvar.core.review import Asked, write_handoff
from ezvar.demo import DEMO_PROJECT, DEMO_TIMELINE

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def settle(window: MainWindow, seconds: float = 1.5) -> None:
    """Let everything arrive that was asked for."""
    end = time.monotonic() + seconds
    while time.monotonic() < end or window.jobs.running:
        QCoreApplication.processEvents()
        time.sleep(0.005)
    for _ in range(20):  # the last job to end lets the layout move once more
        QCoreApplication.processEvents()


def save_with(window: MainWindow, dialog: QDialog, left: int, top: int, file: Path) -> None:
    """A picture of the window with a dialog, which is a window of its own, in front of it."""
    picture = window.grab()
    painter = QPainter(picture)
    painter.drawPixmap(left, top, dialog.grab())
    painter.drawRect(left, top, dialog.width(), dialog.height())
    painter.end()
    picture.save(str(file))


def shoot_states(window: MainWindow, folder: Path) -> None:
    """States of the framing stage, each taken back afterwards."""
    session, shots = window.session, window.session.project.document.shots
    before = session.project.document

    def shoot(name: str) -> None:
        settle(window)
        window.grab().save(str(folder / f"{name}.png"))

    session.at.go(shots[5].start + 40)
    settle(window)
    window.run("framing.panes")
    settle(window)
    window.run("framing.share")
    dialog = window.pages["framing"].tools.dialog
    dialog.panes.border.setValue(1)
    settle(window)
    dialog.panes.colour.choose("#7a4a22")
    settle(window)
    save_with(window, dialog, 8, 76, folder / "panes.png")
    dialog.close()
    session.at.go(shots[6].start + 70)
    settle(window)
    pane = session.at.framing.panes[0]
    moved = with_key(
        pane, session.at.master, picture_size(session.project.document, session.at.shot), Keyframe(75, 0.36)
    )
    window.desk.framing_work.put("Set keyframe", moved)
    window.run("view.guides")
    shoot("by-hand")
    window.run("view.guides")
    session.project.edit("Back", before)
    session.at.go(shots[12].start + 20)
    window.run("view.theme")
    window.walk.begin()
    shoot("dim")
    window.walk.hide()
    window.run("view.theme")


def shoot_review(window: MainWindow, folder: Path) -> None:
    """The review stage with notes, one of them drawn, and what a handoff shows: the page and two sheets of the book."""
    session, doc = window.session, window.session.project.document
    session.project.author = "Edit"
    shot, master = doc.shots[5], doc.masters[0]
    line = Mark(tuple((0.24 + 0.012 * k, 0.22 + 0.0011 * (k - 22) ** 2 / 2) for k in range(45)))
    for number, (author, text, answers, marks) in enumerate((
        ("Director", "Hold on her face, let the lantern go.", "", (line,)),
        ("Edit", "Held. Is the other one out now, fine?", "n0", ()),
        ("Sound", "Very quiet here, is that meant?", "", ()),
    )):  # fmt: skip
        moment = f"2026-01-31T12:00:0{number}Z"
        whose = "" if number == 2 else master.id
        note = ReviewNote(f"n{number}", shot.id, whose, 40, 41, author, moment, text, answers, marks)
        session.project.edit("Note", edits.say_note(session.project.document, note))
    session.at.set_stage("review")
    session.at.go(shot.start + 40)
    settle(window)
    window.grab().save(str(folder / "review.png"))
    window.run("review.large")
    settle(window)
    window.grab().save(str(folder / "review_large.png"))
    window.run("review.large")
    if shutil.which("chromedriver") is None or shutil.which("pdftoppm") is None:
        print("The page and the book are left out: there is no browser, or no program that draws a PDF.")
        return
    with tempfile.TemporaryDirectory() as made:
        chosen = tuple(s.id for s in session.project.document.shots[3:8])
        asked = Asked(frozenset({"page", "pdf"}), shots=chosen)
        write_handoff(session.project.document, made, asked)
        (page,), (book,) = Path(made).glob("*.html"), Path(made).glob("*.pdf")
        shoot_page(page, folder)
        subprocess.run(["pdftoppm", "-r", "70", "-f", "3", "-l", "4", "-png", str(book), f"{made}/sheet"], check=True)
        sheets = [QImage(str(file)) for file in sorted(Path(made).glob("sheet*.png"))]
        both = QImage(sum(s.width() for s in sheets) + 10, sheets[0].height(), QImage.Format.Format_RGB32)
        both.fill(0x888888)
        painter = QPainter(both)
        for k, sheet in enumerate(sheets):
            painter.drawImage(k * (sheet.width() + 10), 0, sheet)
        painter.end()
        both.save(str(folder / "book.png"))


def shoot_output(window: MainWindow, folder: Path) -> None:
    """The output stage: a range that was made and has changed in one shot since, and a master that is being made."""
    session, making = window.session, window.desk.making
    doc = session.project.document
    first = doc.masters[0]
    ranged = replace(first, ranges=(NamedRange("30 s", doc.shots[4].start, doc.shots[10].start, 40.0),))
    doc, whole = edits.add_row(edits.change_master(doc, ranged), first.id)
    doc, part = edits.move_row(doc, whole, -1), listed_id(first.id, "30 s")
    home = os.environ["HOME"]
    with tempfile.TemporaryDirectory() as made:
        os.environ["HOME"] = made  # where masters go, beside no project
        session.project.edit("Rows", doc)
        session.at.set_stage("output")
        settle(window)
        making.make([part])
        settle(window)
        doc = session.project.document
        shot = doc.shots[7]
        framing = doc.framing(shot.id, first.id)
        panes = (replace(framing.panes[0], keys=(Keyframe(0, 0.45),)),)
        session.project.edit("Window", edits.set_framings(doc, [replace(framing, panes=panes)]))
        page = window.pages["output"]
        page.view.choose(part)
        making.make([doc.masters[1].id])
        end = time.monotonic() + 180
        while time.monotonic() < end:
            QCoreApplication.processEvents()
            time.sleep(0.005)
            if sum(part.state == "made" for part in page.view.rows.looks[2].parts) >= 2:
                break
        for _ in range(20):
            QCoreApplication.processEvents()
        window.grab().save(str(folder / "output.png"))
        making.stop()
        settle(window)
        os.environ["HOME"] = home


def shoot_page(page: Path, folder: Path) -> None:
    """The review page in a browser, with something said."""
    from selenium import webdriver
    from selenium.webdriver.common.by import By
    from selenium.webdriver.common.keys import Keys

    options = webdriver.ChromeOptions()
    for word in ("headless=new", "no-sandbox", "disable-gpu", "disable-dev-shm-usage", "window-size=1280,930"):
        options.add_argument(f"--{word}")
    driver = webdriver.Chrome(options, webdriver.ChromeService(shutil.which("chromedriver")))
    try:
        driver.get(page.as_uri())
        driver.find_element(By.ID, "author").send_keys("Director", Keys.ESCAPE)
        body = driver.find_element(By.TAG_NAME, "body")
        body.send_keys(Keys.ARROW_DOWN, "a", Keys.ARROW_DOWN, "c")
        driver.execute_script("goFrame(40)")
        time.sleep(1.5)
        driver.save_screenshot(str(folder / "review_page.png"))
    finally:
        driver.quit()


def main() -> None:
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER
    folder.mkdir(parents=True, exist_ok=True)
    os.environ["EZVAR_CONFIG"] = tempfile.mkdtemp()  # the user's own keys and theme are left alone
    app = make_application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    window.session.files.open(DEMO_PROJECT, template=True)
    settle(window, 4)
    doc = window.session.project.document

    def shoot(stage: str, frame: int) -> None:
        window.session.at.set_stage(stage)
        window.session.at.go(frame)
        settle(window)
        window.grab().save(str(folder / f"{stage}.png"))

    shoot("lock", 240)
    shoot("cuts", doc.shots[11].start)  # the dissolve
    shoot("framing", doc.shots[6].start + 70)
    shoot_states(window, folder)
    window.session.at.set_stage("text")
    window.desk.text_work.choose(doc.tracks[0].captions[4].id)
    settle(window)
    shoot("text", window.session.at.frame)
    for place, verdict in ((2, "agreed"), (3, "agreed"), (4, "agreed"), (6, "change")):
        window.session.at.go_to_shot(doc.shots[place])
        window.run(f"review.{verdict}")
    shoot_review(window, folder)
    window.run("review.write")
    dialog = window.findChild(HandoffDialog)
    dialog.folder.setText("lantern night, handoff")
    settle(window)
    save_with(window, dialog, 280, 40, folder / "handoff.png")
    dialog.close()
    machines = MachinesDialog(
        window, window.jobs, "tls://render-desk:8786", ("/media/rushes=/mnt/rushes", "render-*:/media=/srv/media"), True
    )
    machines.show()
    settle(window)
    save_with(window, machines, 380, 120, folder / "machines.png")
    machines.close()
    shoot_output(window, folder)
    window.session.project.history.mark_saved(window.session.project.document)
    window.session.files.open(DEMO_TIMELINE)
    settle(window, 4)
    window.desk.analysing.add_masters(doc.masters)
    settle(window, 2)
    window.session.at.set_stage("lock")
    window.session.at.go(1460)  # the upright clip
    settle(window)
    window.grab().save(str(folder / "timeline.png"))
    project = window.session.project
    project.written(project.whole, project.document, project.path, "")  # it is not asked about
    window.close()
    app.processEvents()


if __name__ == "__main__":
    main()
