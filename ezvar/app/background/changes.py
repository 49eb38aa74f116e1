"""Changes of framings that need solving: done one after the other, on a thread, each one step of undo."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass

from ezvar.app.session.jobs import Job
from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.framing import Place
from ezvar.core.model import Document, Framing
from ezvar.core.progress import CancelToken, Progress

Change = Callable[[Place], Framing | Document]
"""What becomes of a place: its framing, or the whole document where more than that changes."""
_SHOWN = 8  # shots from which a change is shown as work under way


@dataclass(frozen=True)
class Asked:
    """A change of shots in a master, all by their ids. Of those that wait and share a ``gesture`` the last is done."""

    label: str
    change: Change
    shots: tuple[str, ...]
    master: str
    gesture: Hashable = None
    kept: int = 0  # agreed ones that were left alone
    pane: int = 0  # that the change is of, from 0


@dataclass(frozen=True)
class _Changed:
    """What a change came to: the document, the shots that it does not fit, and why not where it was one alone."""

    doc: Document
    unfit: int = 0
    reason: str = ""


class Changes:
    """A queue of changes."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._waiting: list[Asked] = []
        self._job: Job | None = None

    @property
    def busy(self) -> bool:
        """Whether something is being changed."""
        return self._job is not None or bool(self._waiting)

    def ask(self, asked: Asked) -> None:
        """Have a change done when those before it are."""
        self._waiting = [w for w in self._waiting if asked.gesture is None or w.gesture != asked.gesture]
        self._waiting.append(asked)
        self._go_on()

    def _go_on(self) -> None:
        if self._job is not None or not self._waiting or self._session.project.doc is None:
            return
        asked, doc = self._waiting.pop(0), self._session.project.document
        if asked.master not in {m.id for m in doc.masters}:
            self._go_on()
            return

        def done(result: _Changed) -> None:
            if self._session.project.doc is not doc:
                self._waiting.insert(0, asked)  # changed meanwhile: once more, of what it is now
            elif result.reason:
                self._session.messages.say(f"{asked.label}: {result.reason}.")
            else:
                self._put(asked, result)

        self._job = self._session.jobs.start(
            asked.label, lambda p, c: _changed(asked, doc, p, c), done, self._session.messages.say_problem,
            ended=self._ended, shown=len(asked.shots) > _SHOWN,
        )  # fmt: skip

    def _ended(self) -> None:
        self._job = None
        self._go_on()

    def _put(self, asked: Asked, result: _Changed) -> None:
        count, several = len(asked.shots) - result.unfit, len(asked.shots) > 1
        where = f"{count} shots" if several else f"shot {result.doc.place_of(asked.shots[0]) + 1}"
        self._session.project.edit(f"{asked.label}, {where}", result.doc, asked.gesture)
        if several:
            unfitting = f" It does not fit {result.unfit} others." if result.unfit else ""
            kept = f" {asked.kept} agreed, and left as they are." if asked.kept else ""
            self._session.messages.say(f"{asked.label}: {count} shots.{unfitting}{kept}")


def _changed(asked: Asked, doc: Document, progress: Progress, cancel: CancelToken) -> _Changed:
    """The document with all the shots changed that the change fits."""
    new, unfit = doc, 0
    for k, shot in enumerate(asked.shots):
        cancel.check()
        progress(k / len(asked.shots), asked.label)
        try:
            made = asked.change(Place(new, new.shot(shot), new.master(asked.master), asked.pane))
            new = edits.set_framings(new, [made]) if isinstance(made, Framing) else made
        except (KeyError, ValueError) as error:
            if len(asked.shots) == 1:
                return _Changed(doc, reason=_reason(error))
            unfit += 1
    return _Changed(new, unfit)


def _reason(error: KeyError | ValueError) -> str:
    if isinstance(error, KeyError):
        what = error.args[0] if error.args else ""
        return f"there is no subject {what} here" if isinstance(what, int) else "there are no two subjects here"
    return str(error)
