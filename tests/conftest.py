"""Fixtures: a cache of its own for each run, small movies, a planned document."""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import HealthCheck, settings

from ezvar.app.background.desk import Desk
from ezvar.app.session.jobs import Jobs
from ezvar.app.window.main import make_application
from ezvar.app.window.main_window import MainWindow
from ezvar.core import edits
from ezvar.core.evidence.gather import Finders
from ezvar.core.framing import solve
from ezvar.core.lock import take_lock
from ezvar.core.model import Document, Master, Source
from ezvar.core.planning import plan
from ezvar.core.store import Cache, save_project

from .driving import known, rest
from .media import make_movie, scenes
from .sights import SHOT, several_shots

# Loaded late, as the program does, it would warn through the handler that watches messages here, and so wait for a
# thread that loads another library meanwhile, for ever.
with suppress(ImportError):
    import PyQt6.QtMultimedia  # noqa: F401

settings.register_profile(
    "ezvar",
    deadline=None,
    max_examples=60,
    database=None,
    suppress_health_check=list(HealthCheck),
    derandomize="CI" in os.environ,  # what holds back a change must be seen again by whoever mends it
)
settings.load_profile("ezvar")

DEMO = Path(__file__).parent.parent / "ezvar" / "demo"
LONGEST = ("test_machines", "test_making", "test_lock_and_cuts_stages", "test_relock", "test_checking", "test_damaged")
"""Begun first, so that at the end no process is left with one of them while others have nothing to do."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=lambda item: item.path.stem not in LONGEST)


@pytest.fixture(scope="session", autouse=True)
def own_folders(tmp_path_factory: pytest.TempPathFactory):
    """Keep the user's cache and home out of the tests."""
    home = tmp_path_factory.mktemp("home")
    old = {name: os.environ.get(name) for name in ("EZVAR_CACHE", "EZVAR_CONFIG", "HOME")}
    os.environ.update(EZVAR_CACHE=str(home / "cache"), EZVAR_CONFIG=str(home / "config"), HOME=str(home))
    yield
    for name, value in old.items():
        os.environ.pop(name) if value is None else os.environ.update({name: value})


@pytest.fixture(scope="session")
def cache(own_folders) -> Cache:
    return Cache(os.environ["EZVAR_CACHE"])


@pytest.fixture(scope="session")
def movie(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Sixty numbered frames with beeps and a start timecode; one long group with B-frames."""
    return make_movie(tmp_path_factory.mktemp("movie") / "numbers.mp4", 60, sound="beeps", timecode="01:00:00:00")


@pytest.fixture(scope="session")
def edit(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An edit of four shots of twenty frames, with sound."""
    return make_movie(tmp_path_factory.mktemp("edit") / "walk.mp4", 80, size=(320, 180), sound="beeps", picture=scenes)


@pytest.fixture(scope="session")
def planned(edit: Path, cache: Cache) -> Document:
    """The edit planned for a tall and a square master, small enough to make quickly."""
    return plan(edit, [Master("tall", "9:16", 180, 320), Master("square", "1:1", 200, 200)], cache).doc


@pytest.fixture(scope="module")
def movement_alone():
    """As where no model is installed: for tests of anything but what is seen, which take a part of the time so."""
    finders = Finders()
    finders.faces = finders.text = finders.things = None
    finders.kinds = ("moving",)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("ezvar.core.evidence.tasks._LOADED", [finders])
        yield


@pytest.fixture
def window(qtbot, cache, qapp):
    make_application()
    window = MainWindow(Desk(Jobs(), cache))
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    window.mistakes = []  # what commands fell over, which is only told
    window.session.messages.mistake_said.connect(window.mistakes.append)
    yield window
    assert window.mistakes == []
    desk = window.desk
    qtbot.waitUntil(lambda: not desk.framing_work.busy, timeout=20_000)
    if window.session.project.history:
        project = window.session.project
        project.written(project.whole, project.document, project.path, "")  # it is not asked about
    window.close()
    qtbot.waitUntil(lambda: not any(w.busy for w in (desk.of_shot, desk.text_checks)), timeout=20_000)
    window.deleteLater()
    qtbot.wait(10)


@pytest.fixture
def opened(window, qtbot, planned, tmp_path):
    """The planned edit, opened from a project file, in the framing stage."""
    save_project(planned, tmp_path / "p.ezvar")
    window.session.files.open(tmp_path / "p.ezvar")
    rest(qtbot, window)
    assert window.session.at.stage == "framing"
    return window


@pytest.fixture(scope="session")
def people(tmp_path_factory):
    return make_movie(tmp_path_factory.mktemp("people") / "people.mp4", 3 * SHOT, size=(320, 180))


@pytest.fixture(scope="session")
def framed(people):
    """Three shots of two people each, known by made-up evidence and framed by it; the first and the third from one
    position."""
    told, analysis = several_shots(*[((0.2, 0.2), (0.8, 0.8))] * 3, frames=SHOT)
    doc = _in_a_row(take_lock(people).doc, told.shots)
    for master in (Master("tall", "9:16", 180, 320), Master("square", "1:1", 200, 200)):
        doc = edits.add_master(doc, master)
        doc = edits.set_framings(doc, solve(doc, doc.master(master.id), analysis, doc.shots))
    return doc, analysis


def _in_a_row(doc, shots):
    """A flat movie's document with shots that show it from its beginning on."""
    media = doc.lock.media[0].id
    return replace(doc, shots=tuple(replace(s, source=Source(media, Fraction(s.start))) for s in shots), passed=())


@pytest.fixture
def stage(window, qtbot, people, framed):
    """The framed shots in the window."""
    window.session.files.open(people)
    rest(qtbot, window)
    session, (known_of, analysis) = window.session, framed
    doc = _in_a_row(session.project.document, known_of.shots)
    doc, shots = replace(doc, masters=known_of.masters, framings=known_of.framings), doc.shots
    session.media.analysis = analysis
    session.project.edit("Frame", doc)
    session.at.set_master("tall")
    session.at.set_stage("framing")
    rest(qtbot, window)
    window.desk.of_shot.setups = ((shots[0].id, shots[2].id),)
    window.desk.of_shot._setups_of = (analysis, tuple((s.id, s.start, s.end) for s in shots))
    session.at.go(10)
    known(qtbot, window)
    window.ledger.view.setFocus()
    return window
