"""Project files: whole, atomic, and read with suspicion."""

import json
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given

from ezvar.core.errors import ProjectError
from ezvar.core.framing import crop_windows
from ezvar.core.model import Backdrop, Held, master_named
from ezvar.core.store import SCHEMA, Cache, load_project, read_project, save_project

from ..strategies import documents


@given(documents())
def test_what_is_saved_is_read_back_exactly(tmp_path_factory, doc):
    path = tmp_path_factory.mktemp("p") / "a.ezvar"
    save_project(doc, path)
    assert load_project(path) == doc
    assert [p.name for p in path.parent.iterdir()] == ["a.ezvar"]


def test_a_project_moves_with_its_media(tmp_path, edit, planned):
    """Media beside or below the project are found again after both moved; others by their own path."""
    here = tmp_path / "here"
    (here / "media").mkdir(parents=True)
    media = shutil.copy(edit, here / "media" / "walk.mp4")
    doc = replace_media(planned, str(media))
    save_project(doc, here / "a.ezvar")
    assert str(tmp_path) not in (here / "a.ezvar").read_text()
    here.rename(tmp_path / "there")
    moved = load_project(tmp_path / "there" / "a.ezvar")
    assert moved.lock.media[0].path == str(tmp_path / "there" / "media" / "walk.mp4")
    save_project(planned, tmp_path / "there" / "b.ezvar")
    assert load_project(tmp_path / "there" / "b.ezvar").lock.media[0].path == planned.lock.media[0].path


FORMATS = Path(__file__).parent.parent / "formats"


@pytest.mark.parametrize("version", range(1, SCHEMA))
def test_projects_of_earlier_formats_open_and_say_the_same(tmp_path, version):
    """What each said was written down by the program of its time."""
    path = tmp_path / f"format-{version}.ezvar"
    shutil.copy(FORMATS / path.name, path)
    said = json.loads((FORMATS / f"format-{version}.said.json").read_text())
    doc = load_project(path)
    assert [s.start for s in doc.shots] == said["shots"]
    assert sorted(f.verdict for f in doc.framings) == said["verdicts"]
    for name, rows in said["windows"].items():
        master = master_named(doc, name)
        windows = {(w.frame, w.shot, w.part, w.pane): w.window for w in crop_windows(doc, master)}
        for row in rows:
            _, frame, shot, part, pane, *numbers = row.split(",")
            w = windows[int(frame), int(shot), int(part), int(pane)]
            assert [f"{v:.3f}" for v in (w.left, w.top, w.width, w.height, w.angle)] == numbers
    assert load_project(path).project == doc.project != ""
    layers = [
        (n.name, n.start, n.end, n.source.media, f"{n.source.start}", f"{n.source.step}") for n in doc.lock.layers
    ]
    assert layers == [tuple(each) for each in said.get("layers", ())]
    save_project(doc, path)
    assert load_project(path) == doc


def test_a_moved_project_finds_every_file_it_names(tmp_path, edit, planned):
    """Media, the timeline itself, backdrops of masters, of panes, of versions held beside, and of what is set aside."""
    here = tmp_path / "here"
    here.mkdir()
    names = ("walk.mp4", "cut.otio", "a.png", "b.png", "c.png", "d.png")
    for name in names:
        shutil.copy(edit, here / name)
    where = [str(here / name) for name in names]
    backs = [Backdrop(kind="media", media=path) for path in where[2:]]
    framing = planned.framings[0]
    pane = replace(framing.panes[0], backdrop=backs[1])
    held = (Held((replace(framing.panes[0], backdrop=backs[2]),)),)
    doc = replace_media(planned, where[0])
    doc = replace(
        doc,
        lock=replace(doc.lock, file=where[1]),
        masters=(replace(doc.masters[0], backdrop=backs[0]), *doc.masters[1:]),
        framings=(replace(framing, panes=(pane,), held=held), *doc.framings[1:]),
        aside=(replace(framing, panes=(replace(pane, backdrop=backs[3]),)),),
    )
    save_project(doc, here / "p.ezvar")
    outside = tmp_path / "projects"
    outside.mkdir()
    save_project(doc, outside / "p.ezvar")
    assert load_project(here / "p.ezvar") == load_project(outside / "p.ezvar") == doc
    (tmp_path / "there").mkdir()
    for folder in (here, outside):
        folder.rename(tmp_path / "there" / folder.name)
    for folder in ("here", "projects"):  # what lay elsewhere is found by the way from one to the other
        moved = load_project(tmp_path / "there" / folder / "p.ezvar")
        text = repr(moved)
        assert str(here) not in text
        assert all(str(tmp_path / "there" / "here" / name) in text for name in names)


def test_each_saving_has_a_revision_of_its_own(planned, tmp_path):
    path = tmp_path / "p.ezvar"
    revisions = [save_project(planned, path) for _ in range(3)]
    assert len(set(revisions)) == 3
    assert read_project(path)[1] == revisions[-1]
    assert planned.project == load_project(path).project != ""
    path.write_bytes(path.read_bytes() + b"\n")  # changed by somebody's editor
    assert read_project(path)[1] != revisions[-1]


def replace_media(doc, path):
    return replace(doc, lock=replace(doc.lock, media=(replace(doc.lock.media[0], path=path),)))


def _broken(planned, tmp_path):
    """File contents that are no project, each with what its message must say."""
    save_project(planned, tmp_path / "whole.ezvar")
    whole = (tmp_path / "whole.ezvar").read_text()
    data = json.loads(whole)

    def changed(**document):
        return json.dumps({**data, "document": {**data["document"], **document}})

    shots = data["document"]["shots"]
    return [
        ("", "not whole"),
        (whole[: len(whole) // 2], "not whole"),
        ("[" * 100_000, "not whole"),
        ("[1, 2]", "no Ezvar project"),
        ('{"ezvar": "one", "document": {}}', "no Ezvar project"),
        ('{"ezvar": 1, "document": {}}', "missing"),
        ('{"ezvar": 1, "document": []}', "missing"),
        (whole.replace(f'"ezvar": {SCHEMA}', f'"ezvar": {SCHEMA + 1}', 1), "newer"),
        (changed(shots=shots[1:]), "starts at frame"),
        (changed(shots="none"), "tuple"),
        (re.sub(r'"zoom": 1.0(?=,\s+"angle")', '"zoom": NaN', whole), "finite"),
        (re.sub(r'"zoom": 1.0(?=,\s+"angle")', '"zoom": -1', whole), "above 0"),
        (whole.replace('"solved"', '"guessed"', 1), "solved"),
    ]


def test_broken_projects_are_refused_in_one_plain_sentence(planned, tmp_path):
    for text, said in _broken(planned, tmp_path):
        path = tmp_path / "broken.ezvar"
        path.write_text(text)
        with pytest.raises(ProjectError, match=said) as caught:
            load_project(path)
        message = str(caught.value)
        assert message.startswith("broken.ezvar: ")
        assert "\n" not in message
        assert caught.value.remedy


@pytest.mark.parametrize("path", ["/nowhere/a.ezvar", "/", "/proc/none/b.ezvar"])
def test_paths_that_are_no_files(path, planned):
    with pytest.raises(ProjectError, match="cannot be opened"):
        load_project(path)
    with pytest.raises(ProjectError, match="cannot be saved"):
        save_project(planned, path)


def test_a_folder_without_permission_says_so(planned, tmp_path, monkeypatch):
    """Made by the system's own refusal where tests do not run as root, by the same error where they do."""
    folder = tmp_path / "shut"
    folder.mkdir()
    save_project(planned, folder / "a.ezvar")
    before = (folder / "a.ezvar").read_bytes()
    folder.chmod(0o500)
    if os.geteuid() == 0:
        monkeypatch.setattr("os.replace", _refuse)
    with pytest.raises(ProjectError, match="access is not permitted"):
        save_project(planned, folder / "a.ezvar")
    folder.chmod(0o700)
    assert (folder / "a.ezvar").read_bytes() == before


def _refuse(*_, **__):
    raise PermissionError(13, "Permission denied")


_SAVE_IN_LITTLE_ROOM = """
import resource, signal, sys
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
from ezvar.core.errors import ProjectError
from ezvar.core.store import load_project, save_project
doc = load_project(sys.argv[1])
resource.setrlimit(resource.RLIMIT_FSIZE, (2000, 2000))
try:
    save_project(doc, sys.argv[1])
except ProjectError as error:
    print(error)
"""


def test_a_full_disk_leaves_the_old_project_whole(planned, tmp_path):
    path = tmp_path / "a.ezvar"
    save_project(planned, path)
    said = subprocess.run(
        [sys.executable, "-c", _SAVE_IN_LITTLE_ROOM, path], capture_output=True, text=True, check=True
    )
    assert "a.ezvar: it cannot be saved" in said.stdout
    assert load_project(path) == planned
    assert [p.name for p in tmp_path.iterdir()] == ["a.ezvar"]


_SAVE_WITHOUT_END = """
import sys
from dataclasses import replace
from ezvar.core.store import load_project, save_project
doc = load_project(sys.argv[1])
other = replace(doc, lock=replace(doc.lock, name="other"))
print("saving", flush=True)
while True:
    save_project(other, sys.argv[1])
    save_project(doc, sys.argv[1])
"""


def test_a_kill_while_saving_leaves_one_whole_project(planned, tmp_path):
    path = tmp_path / "a.ezvar"
    save_project(planned, path)
    for k in range(6):
        process = subprocess.Popen([sys.executable, "-c", _SAVE_WITHOUT_END, path], stdout=subprocess.PIPE)
        assert process.stdout.readline() == b"saving\n"
        time.sleep(0.02 + 0.017 * k)
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        assert load_project(path).lock.name in (planned.lock.name, "other")


def test_the_cache_keeps_forgets_and_survives_damage(tmp_path):
    cache = Cache(tmp_path / "c", budget=200_000)
    arrays = {"a": np.arange(10_000), "b": np.ones((3, 4), np.uint8)}
    assert cache.arrays("one") is None
    assert cache.put_arrays("one", arrays)
    found = cache.arrays("one")
    assert all((found[k] == arrays[k]).all() for k in arrays)
    os.utime(tmp_path / "c" / "one.npz", (1, 1))
    for k in range(4):
        cache.put_arrays(f"more{k}", arrays)
    assert cache.arrays("one") is None
    assert cache.arrays("more3") is not None
    (tmp_path / "c" / "more3.npz").write_bytes(b"PK nonsense")
    assert cache.arrays("more3") is None
    assert not Cache(Path("/proc/none")).put_arrays("x", arrays)
