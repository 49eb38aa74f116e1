"""What the commands do: a method for each, named after its id."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.app.kit.asking import ask
from ezvar.app.session.session import InTheWay
from ezvar.app.stages.lock.clips_dialog import ClipsDialog
from ezvar.app.window.finder import Finder
from ezvar.core import edits
from ezvar.core.edits import drop, keep
from ezvar.core.model import CutPlace, Document, media_named
from ezvar.core.names import readable
from ezvar.core.review import CUTS_KINDS, CutsKind, Taken, take, write_cuts, write_handoff
from ezvar.core.timing import Rate
from ezvar.demo import DEMO_PROJECT, DEMO_TIMELINE

from .framing import FramingCommands
from .transport import Going
from .view import ViewCommands

if TYPE_CHECKING:
    from ezvar.app.window.main_window import MainWindow

_OPENS = (
    "Projects, timelines and movies "
    "(*.ezvar *.otio *.otioz *.edl *.aaf *.mp4 *.mov *.mkv *.webm *.mxf *.m4v *.avi);;All files (*)"
)


class Handlers:
    """Runs commands for a window: "cuts.keep" is `_cuts_keep`."""

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        self._session = window.session
        self.framing = FramingCommands(window)
        self.going = Going(window)
        self.view = ViewCommands(window)

    def run(self, group: str, what: str) -> None:
        """Run the command ``group.what``."""
        self.of(group, what)()

    def of(self, group: str, what: str) -> Callable[[], object]:
        """What runs a command."""
        by: dict[str, Callable[[str], Callable[[], object]]] = {
            "framing": self.framing.of, "go": self.going.of, "view": self.view.of
        }  # fmt: skip
        if group in by:
            return by[group](what)
        method: Callable[[], object] = getattr(self, f"_{group}_{what}")
        return method

    def _file_open(self) -> None:
        if self._window.may_leave():
            path, _ = QFileDialog.getOpenFileName(self._window, "Open a movie, timeline or project", "", _OPENS)
            if path:
                self._session.open(path)

    def _file_clips(self) -> None:
        if self._window.may_leave():
            paths, _ = QFileDialog.getOpenFileNames(self._window, "Open loose clips")
            if paths:
                self.open_clips(paths)

    def open_clips(self, paths: list[str]) -> None:
        """Ask for order, in and out of loose clips, then open them."""
        dialog = ClipsDialog(self._window, paths)
        if not dialog.exec():
            return
        try:
            self._session.open_clips(dialog.clips())
        except ValueError:
            self._window.say_problem("An in or out is no number of frames. Open the clips again.")

    def _file_demo(self) -> None:
        if self._window.may_leave():
            self._session.open(DEMO_PROJECT, template=True)

    def _file_demo_timeline(self) -> None:
        if self._window.may_leave():
            self._session.open(DEMO_TIMELINE)

    def _file_save(self) -> None:
        if self._session.path is None:
            self._file_save_as()
        else:
            self._session.save(self._session.path)

    def _file_save_as(self) -> None:
        start = str(self._session.path or Path.home() / f"{self._session.document.lock.name}.ezvar")
        path, _ = QFileDialog.getSaveFileName(
            self._window, "Save the project", start, "Ezvar projects (*.ezvar)",
            options=QFileDialog.Option.DontConfirmOverwrite,  # it is asked when it is known what is there
        )  # fmt: skip
        if path:
            self._session.save(path if path.endswith(".ezvar") else f"{path}.ezvar")

    def _file_quit(self) -> None:
        self._window.close()

    def _edit_undo(self) -> None:
        self._session.undo()

    def _edit_redo(self) -> None:
        self._session.redo()

    def _edit_all(self) -> None:
        self._window.ledger.choose_all()

    def _help_walk(self) -> None:
        self._window.show_walk()

    def _help_keys(self) -> None:
        self._window.show_keys()

    def _edit_finder(self) -> None:
        finder = Finder(self._window, self._window.available(), self._window.keymap)
        if finder.exec() and finder.chosen:
            self._window.run(finder.chosen)

    # Lock

    def _lock_look(self) -> None:
        folder = QFileDialog.getExistingDirectory(self._window, "Where to look for missing media")
        if folder:
            self._session.lock_work.search_media([folder])

    def _lock_uses(self) -> None:
        shot = self._session.shot
        if shot is not None:
            doc = edits.turn_uses(self._session.document, shot.id)
            place = doc.place_of(shot.id)
            self._session.edit(f"Frame {doc.shots[place].uses}, shot {place + 1}", doc)
            self._window.say(f"Shot {place + 1} frames {doc.shots[place].uses} now.")

    def _lock_rule(self) -> None:
        doc = edits.turn_rule(self._session.document)
        self._session.edit(f"Frames of other rates: {doc.lock.rule}", doc)
        self._window.say(f"Media of another rate show their frames {doc.lock.rule} now.")

    def _lock_compare(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._window, "The flat reference movie of this lock")
        if path:
            self._session.lock_work.compare(path)

    def _lock_placements(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._window, "The flat movie that shows where the pictures were placed")
        if path:
            self._session.lock_work.find_placements(path)

    def _lock_relock(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._window, "The changed lock", "", _OPENS)
        if path:
            self._session.lock_work.relock(path)

    def ask_rate(self, path: Path, choices: tuple[Rate, ...]) -> None:
        """Ask for the rate of a timeline that states none, offering those that its timecodes allow."""
        words = [f"{rate} frames a second" for rate in choices]
        usual = next((k for k, rate in enumerate(choices) if rate == Rate(25)), 0)
        said = f"{readable(path.name)} does not say its frame rate. Its timecodes allow these:"
        chosen, given = QInputDialog.getItem(self._window, "Frame rate", said, words, usual, False)
        if given:
            self._session.open(path, rate=choices[words.index(chosen)])

    def ask_in_the_way(self, there: InTheWay) -> None:
        """Ask what to do where a project was to be saved and another one is."""
        name, window = readable(there.path.name), self._window
        if there.other:
            said = f"{name} is there already: {there.other}. Replace it?"
            if ask(window, "Save the project", said, ("Replace it", "Keep it")) == "Replace it":
                self._session.save(there.path, replacing=True)
            return
        said = f"Somebody else has saved {name} since it was read here. Nothing of theirs or yours is lost yet."
        answers = ("Take theirs in", "Save beside it…", "Replace theirs", "Not now")
        match ask(window, "Saved by somebody else", said, answers):
            case "Take theirs in":
                self._session.take_theirs()
            case "Save beside it…":
                self._file_save_as()
            case "Replace theirs":
                self._session.save(there.path, replacing=True)

    # Cuts

    def _settle(self, verb: str, change: Callable[[Document, CutPlace], Document]) -> None:
        """Change all chosen cuts in one step of undo, then go on to the next that waits."""
        session = self._session
        doc, changed = session.document, []
        for place in self._window.ledger.chosen_places() or ([session.place] if session.place else []):
            try:
                doc = change(doc, place)
                changed.append(place)
            except ValueError as error:
                self._window.say(f"The cut at {session.timecode(place.frame)} stays: {error}.")
        if changed:
            where = session.timecode(changed[0].frame) if len(changed) == 1 else f"{len(changed)} places"
            session.edit(f"{verb} at {where}", doc)
        if len(changed) <= 1:
            self.going.doubt()

    def _cuts_keep(self) -> None:
        self._settle("Keep cut", keep)

    def _cuts_remove(self) -> None:
        self._settle("No cut", drop)

    def _move_cut(self, by: int) -> None:
        shot = self._session.shot
        if shot is None or shot.start == 0:
            return
        try:
            doc = edits.move_cut(self._session.document, shot.id, shot.start + by)
        except ValueError as error:
            self._window.say(f"The cut cannot move on: {error}.")
            return
        self._session.edit("Move cut", doc)
        self._session.go(shot.start + by)

    def _cuts_earlier(self) -> None:
        self._move_cut(-1)

    def _cuts_later(self) -> None:
        self._move_cut(1)

    def _cuts_add(self) -> None:
        try:
            doc = edits.add_cut(self._session.document, self._session.frame)
        except ValueError as error:
            self._window.say(f"No cut can be put here: {error}.")
            return
        self._session.edit(f"Cut at {self._session.timecode(self._session.frame)}", doc)

    def _cuts_find(self) -> None:
        self._session.lock_work.find_cuts(self._window.cuts.sensitivity)

    def _cuts_find_in_shot(self) -> None:
        shot = self._session.shot
        if shot is not None:
            self._session.lock_work.find_cuts(self._window.cuts.sensitivity, shot.start + 1, shot.end)

    # Review

    def _verdict(self, verdict: Any) -> None:
        shot, master = self._session.shot, self._session.master
        if shot is None or master is None or self._session.document.framing(shot.id, master.id) is None:
            return
        place = self._session.document.place_of(shot.id) + 1
        doc = edits.set_verdict(self._session.document, shot.id, master.id, verdict)
        self._session.edit(f"Say “{verdict}”, shot {place}", doc)

    def _review_agreed(self) -> None:
        self._verdict("agreed")

    def _review_change(self) -> None:
        self._verdict("change")

    def _review_open(self) -> None:
        self._verdict("open")

    def _review_write(self) -> None:
        folder = QFileDialog.getExistingDirectory(self._window, "Where to write the handoff")
        if folder:
            self.write_handoff(folder)

    def write_handoff(self, folder: str) -> None:
        """Write the handoff into a folder, on a thread."""
        doc = self._session.document

        def done(result: Any) -> None:
            after, files = result
            self._session.edit("Write the handoff", edits.set_exchanged(self._session.document, after.exchanged))
            names = ", ".join(f.name for f in files)
            self._window.say(f"Written to {folder}: {names}." if files else "There is no master to hand off yet.")

        self._window.jobs.start(
            "Writing the handoff", lambda p, c: write_handoff(doc, folder), done, self._window.say_problem
        )

    def _review_write_cuts(self) -> None:
        words = list(CUTS_KINDS.values())
        said, given = QInputDialog.getItem(self._window, "Write the cuts", "What to write:", words, 0, False)
        folder = QFileDialog.getExistingDirectory(self._window, "Where to write the cuts") if given else ""
        if folder:
            self.write_cuts(folder, next(kind for kind, text in CUTS_KINDS.items() if text == said))

    def write_cuts(self, folder: str, kind: CutsKind) -> None:
        """Write the cuts alone into a folder, on a thread."""
        doc = self._session.document

        def done(file: Path) -> None:
            self._window.say(f"Written: {file}.")

        self._window.jobs.start(
            "Writing the cuts", lambda p, c: write_cuts(doc, folder, kind), done, self._window.say_problem
        )

    def _review_take(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self._window, "Take decisions in", "", "Timelines (*.otio)")
        if path:
            self.take(path)

    def take(self, path: str, folders: Collection[str] = ()) -> None:
        """Merge a returned timeline in, on a thread; it may name files in ``folders``."""
        doc = self._session.document

        def done(result: tuple[Any, Taken]) -> None:
            merged, taken = result
            if self._session.doc is not doc:
                self._window.say_problem("The project changed while the file was read. Take it in again.")
                return
            self._session.edit(f"Take in {readable(Path(path).name)}", merged)
            if taken.files and not folders and self._may_open(taken.files):
                self.take(path, {str(Path(file).parent) for file in taken.files})
                return
            said = [f"{len(taken.taken)} taken, {taken.same} the same, {len(taken.conflicts)} in conflict."]
            for ours, _ in taken.conflicts:
                said.append(f"Shot {merged.place_of(ours.shot) + 1} was changed on both sides, ours is kept.")
            self._window.review.result.setText("\n".join([*said, *taken.problems]))
            self._session.set_stage("Review")

        self._window.jobs.start(
            f"Taking in {readable(Path(path).name)}",
            lambda p, c: take(doc, path, folders),
            done,
            self._window.say_problem,
        )

    def _may_open(self, files: tuple[str, ...]) -> bool:
        """Ask whether files that a return names may be opened, where all lie in folders that the project draws on."""
        session = self._session
        own = {Path(path).parent for path in media_named(session.document)}
        if not all(Path(os.path.realpath(file)).parent in own for file in files):
            return False
        listed = ", ".join(readable(Path(file).name) for file in files[:5])
        said = (
            f"The return shows files that the project does not use yet: {listed}. They lie beside its media. Open them?"
        )
        return ask(self._window, "Files of a return", said, ("Open them", "Leave them")) == "Open them"

    # Output

    def _output_make(self) -> None:
        if self._session.master is not None:
            self._session.set_stage("Output")
            self._window.output.make((self._session.master,))

    def _output_make_all(self) -> None:
        self._session.set_stage("Output")
        self._window.output.make(self._session.document.masters)
