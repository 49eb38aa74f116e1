"""Fixtures: a cache of its own for each run, small movies, a planned document."""

from __future__ import annotations

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import HealthCheck, settings

from ezvar.core.model import Document, Master
from ezvar.core.planning import plan
from ezvar.core.store import Cache

from .media import make_movie, scenes

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
