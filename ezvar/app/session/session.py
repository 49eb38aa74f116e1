"""What the window works on, in its parts."""

from __future__ import annotations

from ezvar.core.memory import Memory
from ezvar.core.store import Cache, Journal, default_cache
from ezvar.core.work import Surroundings
from ezvar.demo import DEMO_SEEN

from .jobs import Jobs
from .machines import MachinesUsed
from .messages import Messages
from .open_media import OpenMedia
from .played_marks import PlayedMarks
from .position import Position
from .project import Project
from .project_files import ProjectFiles
from .readings import Readings


class Session:
    """The open project, the place in it, the media behind it, and what brings projects in and out.

    The position and the media are made before anybody else can listen to
    the project, so that they have followed a change when others hear of it.
    """

    def __init__(self, jobs: Jobs, cache: Cache | None = None) -> None:
        self.jobs = jobs
        self.memory = Memory()
        self.cache = cache or default_cache(DEMO_SEEN)
        self.messages = Messages()
        self.machines = MachinesUsed(self.messages)
        self.project = Project(Journal(self.cache.folder), self.messages)
        self.at = Position(self.project)
        self.media = OpenMedia(self.project, self.cache, self.messages)
        self.played = PlayedMarks(self.project, self.at)
        self.readings = Readings(self.project, self.at)
        self.files = ProjectFiles(jobs, self.cache, self.messages, self.project, self.at, self.media, self.played)

    @property
    def around(self) -> Surroundings:
        """What tasks on the present document find here."""
        return Surroundings(
            self.project.document, self.cache, lambda error: self.messages.say_problem(str(error)),
            others=self.machines.others,
        )  # fmt: skip
