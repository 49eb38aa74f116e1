"""What the open lock's media give: their pictures, small ones of them, and what was seen in them."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.errors import EzvarError
from ezvar.core.evidence import Analysis
from ezvar.core.lock import LockReader, proxy_of
from ezvar.core.media import MovieFacts, MovieReader, is_interlaced
from ezvar.core.model import Document, Media
from ezvar.core.store import Cache
from ezvar.core.viewing import Proxy

from .messages import Messages
from .project import Project


class OpenMedia(QObject):
    """Reader, proxy and analysis of what the document's lock shows now; it follows the document by itself."""

    leaving = pyqtSignal()  # what the lock shows is about to be another
    changed = pyqtSignal()  # the same lock shows other pictures now
    back = pyqtSignal()  # media that were gone are there again
    analysed = pyqtSignal()  # what was seen in the lock is known now

    def __init__(self, project: Project, cache: Cache, messages: Messages) -> None:
        super().__init__()
        self._cache, self._messages = cache, messages
        self.reader: LockReader | None = None
        self.proxy: Proxy | None = None
        self.analysis: Analysis | None = None
        self.content = ""  # what the analysis and the proxy are of
        project.changed.connect(lambda: self._follow(project.document))

    def reader_of(self, doc: Document) -> LockReader:
        """A reader with its facts read; to be called on a thread."""
        reader = LockReader(doc, self.failed)
        if doc.lock.flat and reader.facts is None:
            for media in doc.lock.media:
                self._tell_of(media)
        elif reader.facts is not None:
            self._look_at(reader.facts)
        return reader

    def _look_at(self, facts: MovieFacts) -> None:
        """Have known what is told of a flat movie."""
        try:
            is_interlaced(facts)
        except EzvarError as error:
            self._messages.say_problem(str(error))

    def _tell_of(self, media: Media) -> None:
        try:
            MovieReader(media.path).close()
        except EzvarError as error:
            self._messages.say_problem(str(error))

    def failed(self, media: str, error: EzvarError) -> None:
        """Called on a reading thread: a media cannot be read."""
        self._messages.say_problem(str(error))

    def leave(self) -> None:
        """Another project is about to be open."""
        self.leaving.emit()

    def begin(self, reader: LockReader) -> None:
        """Another project is open, with this reader of its lock."""
        self.reader = reader
        self._take_up(reader)

    def _follow(self, doc: Document) -> None:
        if self.reader is None:
            return
        old = self.reader.doc
        if old.shots is doc.shots and old.lock is doc.lock and old.colouring == doc.colouring:
            return
        self.reader.show(doc)
        if self.reader.name != self.content:
            self.leaving.emit()
            self._take_up(self.reader)
            self.changed.emit()

    def _take_up(self, reader: LockReader) -> None:
        self.content = reader.name
        if self.proxy is not None:
            self.proxy.close()
        self.proxy = proxy_of(reader.doc, self._cache)
        self.analysis = None

    def show_again(self) -> None:
        """Have what the lock shows read anew: media are there again."""
        self.back.emit()

    def put_analysis(self, analysis: Analysis) -> None:
        """What was seen in the lock is known now."""
        self.analysis = analysis
        if self.proxy is not None:
            self.proxy.look_again()
        self.analysed.emit()
