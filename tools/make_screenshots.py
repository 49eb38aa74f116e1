"""Make docs/screenshots from the demo edit: one picture of each main view.

    python tools/make_screenshots.py [FOLDER]

Works without a monitor. Analysis comes from the cache where it is kept.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from PyQt6.QtCore import QCoreApplication
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QDialog

from ezvar.app.stages.review.handoff_dialog import HandoffDialog
from ezvar.app.window.main import make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core.framing import picture_size, with_key
from ezvar.core.model import Keyframe
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
    shoot("review", doc.shots[5].start)
    window.run("review.write")
    dialog = window.findChild(HandoffDialog)
    dialog.folder.setText("lantern night, handoff")
    settle(window)
    save_with(window, dialog, 280, 100, folder / "handoff.png")
    dialog.close()
    shoot("output", 0)
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
