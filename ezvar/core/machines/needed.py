"""The files that a document's tasks need, and what they are."""

from __future__ import annotations

from ezvar.core.errors import EzvarError
from ezvar.core.media import fingerprint
from ezvar.core.model import Document
from ezvar.core.store.places import named_files
from ezvar.core.store.project import dump_project

from .errand import Needed, SentDocument, sent

_NOT_READ = ("shared", "source", "file")  # where a document came from and goes to


class Files:
    """What a document's tasks need of the disk. ``sent`` is the document itself, as it travels."""

    def __init__(self, doc: Document) -> None:
        self._media = {m.id: Needed(m.path, m.content) for m in doc.lock.media if m.path and m.content}
        own = {needed.path for needed in self._media.values()}
        without = (Needed(doc.textless.path, doc.textless.content),) if doc.textless is not None else ()
        self._beside = (*without, *(as_it_is(path) for path in sorted(_beside(doc) - own)))
        self.sent: SentDocument = sent(doc)

    def needed(self, media: set[str]) -> tuple[Needed, ...]:
        """The files of some media, by their ids, and all that is no media of the lock: fonts, tables, backdrops."""
        those = (self._media[id] for id in sorted(media) if id in self._media)
        return (*those, *(needed for needed in self._beside if needed.content))


def _beside(doc: Document) -> set[str]:
    values = dump_project(doc)["document"]
    return {holder[key] for holder, key in named_files(values) if key not in _NOT_READ and "content" not in holder}


def as_it_is(path: str) -> Needed:
    """A file and its fingerprint, which is empty where it is missing here as well."""
    try:
        return Needed(path, fingerprint(path))
    except EzvarError:
        return Needed(path, "")
