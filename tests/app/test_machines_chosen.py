"""Choosing who does the work, and seeing it done by others, in the real window."""

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication

from ezvar.app.commands.window import choose_machines
from ezvar.app.window.machines_dialog import MachinesDialog
from ezvar.core.store import load_preferences

from ..driving import rest

pytest.importorskip("distributed")


def with_dialog(window, qtbot, act):
    """Run the command, and have something done in its dialog."""
    failed = []

    def answer():
        dialog = QApplication.activeModalWidget()
        try:
            assert isinstance(dialog, MachinesDialog)
            act(dialog)
        except BaseException as error:
            failed.append(error)
            dialog.reject()

    QTimer.singleShot(0, answer)
    choose_machines.run(window)
    if failed:
        raise failed[0]


def test_workers_are_chosen_tried_and_make_the_movies(opened, qtbot, tmp_path):
    said = []

    def choose(dialog):
        assert dialog.alone.isChecked()
        assert not dialog.try_them.isEnabled()
        qtbot.keyClicks(dialog.field, "tcp://8.8.8.8:8786")
        assert dialog.others.isChecked()
        assert "not protected" in dialog.said.text()
        dialog.processes.setChecked(True)
        dialog.number.setValue(1)
        dialog.paths_field.setPlainText("nonsense")
        qtbot.mouseClick(dialog.try_them, Qt.MouseButton.LeftButton)
        assert "is no map of paths" in dialog.said.text()
        dialog.paths_field.setPlainText("/media=/mnt")
        qtbot.mouseClick(dialog.try_them, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: "1 machine with 1 thread" in dialog.said.text(), timeout=30000)
        dialog.accept()

    with_dialog(opened, qtbot, choose)
    kept = load_preferences(opened.preferences.file)
    assert (kept.machines, kept.paths, kept.then_here) == ("here:1", ("/media=/mnt",), False)
    making = opened.desk.making
    making.make([row.id for row in making.rows()])
    qtbot.waitUntil(lambda: said.append(opened.jobs_panel.others.text()) or ": making" in said[-1], timeout=30000)
    rest(qtbot, opened)
    qtbot.waitUntil(lambda: not making.busy, timeout=60000)
    assert [f.report.problems for f in opened.session.project.makings.finished] == [(), ()]

    with_dialog(opened, qtbot, lambda dialog: (dialog.alone.setChecked(True), dialog.accept()))
    assert opened.session.machines.at_work() == []
