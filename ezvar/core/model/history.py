"""Undo: the values that the document had, each with the label of the step that left it."""

from __future__ import annotations

from .document import Document


class History:
    """A line of documents with a place in it.

    Steps that share a ``gesture`` (one drag of a slider or of a window) and
    follow each other count as one.
    """

    def __init__(self, doc: Document) -> None:
        self._docs = [doc]
        self._labels: list[str] = []
        self._gestures: list[object | None] = []
        self._at = 0
        self._saved: Document | None = doc

    @property
    def doc(self) -> Document:
        return self._docs[self._at]

    @property
    def undo_label(self) -> str | None:
        return self._labels[self._at - 1] if self._at else None

    @property
    def redo_label(self) -> str | None:
        return self._labels[self._at] if self._at < len(self._labels) else None

    @property
    def saved(self) -> bool:
        """Whether the present document is the one last saved."""
        return self.doc is self._saved

    def mark_saved(self, doc: Document) -> None:
        """Note that ``doc`` is on disk. It may be an earlier one than the present."""
        self._saved = doc

    def mark_unsaved(self) -> None:
        """Note that no file holds any of these documents."""
        self._saved = None

    def push(self, label: str, doc: Document, gesture: object | None = None) -> None:
        """Go on to ``doc``; what was undone before is forgotten."""
        if doc == self.doc:
            return
        same = gesture is not None and self._at > 0 and self._gestures[self._at - 1] == gesture
        if same and self._at == len(self._labels):
            self._docs[self._at] = doc
            return
        del self._docs[self._at + 1 :], self._labels[self._at :], self._gestures[self._at :]
        self._docs.append(doc)
        self._labels.append(label)
        self._gestures.append(gesture)
        self._at += 1

    def undo(self) -> Document:
        """Step back; at the beginning nothing happens."""
        self._at = max(0, self._at - 1)
        return self.doc

    def redo(self) -> Document:
        """Step forth again; at the end nothing happens."""
        self._at = min(len(self._labels), self._at + 1)
        return self.doc
