"""Saving: only over what is meant, never over what others saved, under names that a disk can hold."""

import json
import os
import subprocess
import sys
import threading
import time
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.cli import main
from ezvar.core import edits
from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import EzvarError, OutputError, ProjectError
from ezvar.core.framing import ARRANGEMENTS_KEPT
from ezvar.core.lock import lock_from_movie
from ezvar.core.media import probe
from ezvar.core.model import Backdrop, Document
from ezvar.core.names import file_names, readable
from ezvar.core.output import listed_rows, renamed, targets
from ezvar.core.review import merge_projects, write_cuts
from ezvar.core.store import (
    Cache,
    Journal,
    MasterSet,
    ProjectChanged,
    Sets,
    leftovers,
    load_project,
    load_sets,
    occupied,
    read_project,
    save_project,
    save_sets,
    update_project,
    write_atomically,
)
from ezvar.core.viewing import Proxy, Span

from ..making import make_one
from ..media import make_movie
from ..timelines import handed_timelines


def test_nothing_but_a_project_is_ever_replaced_by_one(capsys, edit, planned, tmp_path):
    movie = tmp_path / "walk.mp4"
    movie.write_bytes(edit.read_bytes())
    listed = tmp_path / "cut.edl"
    listed.write_text("TITLE: cut\n")
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    linked = tmp_path / "linked.ezvar"
    linked.symlink_to(movie)
    before = [p.read_bytes() for p in (movie, listed)]
    for target in (movie, listed, pipe, linked, tmp_path, "/dev/null", tmp_path / "none" / "p.ezvar"):
        assert main(["plan", str(movie), "--master", "9:16", "--replace", "-o", str(target)]) == 2
        assert capsys.readouterr().err.count("\n") == 1
        with pytest.raises(ProjectError, match=r"cannot be saved|no project|one of the lock's media"):
            save_project(planned, target)
    assert [p.read_bytes() for p in (movie, listed)] == before


def test_what_is_given_out_replaces_its_own_kind_only(planned, tmp_path):
    listed = tmp_path / "sets.json"
    for sets in (Sets(), Sets((MasterSet("ours", planned.masters),))):
        save_sets(sets, listed)
        assert load_sets(listed) == sets
    save_project(planned, tmp_path / "p.ezvar")
    for other in (tmp_path / "p.ezvar", listed):
        before = other.read_bytes()
        with pytest.raises(ProjectError, match="something else"):
            ARRANGEMENTS_KEPT.save((), other)
        assert other.read_bytes() == before


def test_a_project_is_replaced_when_asked_and_says_what_it_holds(capsys, edit, planned, tmp_path):
    project = tmp_path / "p.ezvar"
    save_project(planned, project)
    wanted = ["plan", str(edit), "--master", "4:5", "-o", str(project)]
    assert main(wanted) == 2
    assert "the project walk with 4 shots, masters: 9:16, 1:1" in capsys.readouterr().err
    assert load_project(project) == planned
    assert main([*wanted, "--replace"]) == 0
    assert [m.name for m in load_project(project).masters] == ["4:5"]
    (tmp_path / "empty.ezvar").touch()
    assert occupied(tmp_path / "empty.ezvar") == occupied(tmp_path / "new.ezvar") == ""


def test_links_modes_and_the_users_mask_are_kept(planned, tmp_path):
    real, link = tmp_path / "real.ezvar", tmp_path / "link.ezvar"
    old = os.umask(0o027)
    try:
        save_project(planned, real)
        assert real.stat().st_mode & 0o777 == 0o640
    finally:
        os.umask(old)
    real.chmod(0o604)
    link.symlink_to(real)
    save_project(edits.remove_master(planned, "tall"), link)
    assert link.is_symlink()
    assert real.stat().st_mode & 0o777 == 0o604
    assert len(load_project(real).masters) == 1
    link.unlink()
    link.symlink_to(link)
    with pytest.raises(ProjectError, match="in a circle"):
        save_project(planned, link)


def test_whoever_saves_second_is_told(planned, tmp_path):
    path = tmp_path / "p.ezvar"
    first = save_project(planned, path)
    doc, revision = read_project(path)
    assert (doc, revision) == (planned, first)
    theirs = edits.remove_master(planned, "square")
    save_project(theirs, path, revision)
    with pytest.raises(ProjectChanged, match="saved it meanwhile"):
        save_project(planned, path, revision)
    with pytest.raises(ProjectChanged):
        save_project(planned, path, "")
    assert load_project(path) == theirs


def test_many_who_change_a_project_at_once_lose_nothing(planned, tmp_path):
    path = tmp_path / "p.ezvar"
    save_project(planned, path)
    numbers = range(24)

    def add(number: int) -> None:
        master = replace(planned.masters[0], id=f"m{number}", name=f"master {number}")
        update_project(path, lambda doc: (edits.add_master(doc, master), None))

    threads = [threading.Thread(target=add, args=(n,)) for n in numbers]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert {m.id for m in load_project(path).masters} == {"tall", "square", *(f"m{n}" for n in numbers)}


def test_takes_side_by_side_are_all_there_afterwards(planned, tmp_path):
    project = tmp_path / "p.ezvar"
    save_project(planned, project)
    names = ("walk 9x16.otio", "walk 1x1.otio")
    main(["handoff", str(project), "-o", str(tmp_path / "out")])
    said = load_project(project)
    for shot in said.shots:
        for master in said.masters:
            said = edits.set_verdict(said, shot.id, master.id, "change")
    handed_timelines(said, tmp_path / "back")
    takes = [
        subprocess.Popen([sys.executable, "-m", "ezvar", "take", project, tmp_path / "back" / name]) for name in names
    ]
    assert [take.wait() for take in takes] == [0, 0]
    assert {f.verdict for f in load_project(project).framings} == {"change"}


def test_what_others_saved_is_merged_by_what_both_began_with(planned):
    a, b, c = (s.id for s in planned.shots[:3])
    ours = edits.set_verdict(edits.set_verdict(planned, a, "tall", "agreed"), c, "tall", "agreed")
    theirs = edits.set_verdict(edits.set_verdict(planned, b, "tall", "change"), c, "tall", "change")
    taken = merge_projects(ours, planned, theirs)
    merged = edits.take_decisions(ours, taken.taken, taken.exchanged)
    verdicts = [merged.framing(shot, "tall").verdict for shot in (a, b, c)]
    assert verdicts == ["agreed", "change", "agreed"]
    assert (len(taken.taken), len(taken.conflicts)) == (1, 1)


def test_a_handoff_replaces_only_what_it_wrote(planned, tmp_path):
    folder = tmp_path / "h"
    _, files = handed_timelines(planned, folder)
    (cuts,) = write_cuts(planned, folder, "edl")
    changed = edits.set_verdict(planned, planned.shots[0].id, "tall", "agreed")
    handed_timelines(changed, folder)  # just as it was written: replaced
    assert "agreed" in files[0].read_text()
    for mine in (files[1], cuts):
        whole = {p: p.read_bytes() for p in folder.iterdir()}
        mine.write_text("my own notes")
        with pytest.raises(OutputError, match=f"not as it was written here: {mine.name}"):
            handed_timelines(planned, folder) if mine is files[1] else write_cuts(planned, folder, "edl")
        assert {p: p.read_bytes() for p in folder.iterdir()} == {**whole, mine: b"my own notes"}
        mine.write_bytes(whole[mine])
    (folder / "ezvar-handoff.json").unlink()
    with pytest.raises(OutputError, match=r"not as written: walk 9x16\.otio, walk 1x1\.otio, README\.txt and 1 more"):
        handed_timelines(planned, folder)


NAMES = st.text(st.sampled_from("aA 9:x/é\u0301漢🎞.\n") | st.characters(exclude_categories=["Cs"]), max_size=300)


@given(st.lists(NAMES, max_size=6), st.sampled_from([40, 143, 255]))
def test_names_of_files_are_safe_short_and_told_apart(texts, most):
    names = [n.name for n in file_names(texts, ".mp4", most)]
    assert len({n.casefold() for n in names}) == len(texts)
    for name in names:
        assert len(name.encode()) <= most
        assert name.endswith(".mp4")
        assert name != ".mp4"
        assert not set(name) & set('/\\?*"<>|:\n\0')
    assert names == [n.name for n in file_names(texts, ".mp4", most)]


def test_masters_whose_names_meet_are_made_apart_and_told(capsys, planned, tmp_path):
    same = replace(planned.masters[1], name="9x16")
    long = replace(planned.masters[0], id="long", name="long " * 60)
    doc = edits.add_master(edits.change_master(planned, same), long)
    wanted = listed_rows(doc, DELIVERY)
    paths = [path.name for path in targets(doc, wanted, tmp_path).values()]
    assert paths[:2] == ["walk 9x16.mp4", "walk 9x16 (2).mp4"]
    assert len(paths[2]) == 255
    said = renamed(doc, wanted)
    assert ["same file name" in s for s in said] == [True, False]
    save_project(edits.remove_master(doc, "long"), tmp_path / "p.ezvar")
    assert main(["make", str(tmp_path / "p.ezvar"), "--range", "0-3", "-o", str(tmp_path / "out")]) == 1
    assert "another one would have the same file name" in capsys.readouterr().out.splitlines()[0]
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["walk 9x16 (2).mp4", "walk 9x16.mp4"]
    assert main(["check", str(tmp_path / "p.ezvar")]) == 1
    assert "“walk 9x16 (2).mp4”" in capsys.readouterr().out
    assert main(["handoff", str(tmp_path / "p.ezvar"), "-o", str(tmp_path / "told")]) == 1
    assert "“walk 9x16 (2).otio”" in capsys.readouterr().out.splitlines()[0]
    assert len(handed_timelines(doc, tmp_path / "h")[1]) == len({p.name for p in (tmp_path / "h").glob("*.otio")}) == 3


def test_a_movie_never_takes_the_place_of_anything_else(planned, tmp_path):
    master = planned.masters[0]
    target = tmp_path / "walk 9x16.mp4"
    target.write_text("A letter")
    with pytest.raises(OutputError, match="no movie"):
        make_one(planned, master, tmp_path)
    target.unlink()
    make_movie(target, 3)
    behind = replace(master, backdrop=Backdrop(kind="media", media=str(target)))
    doc = edits.change_master(planned, behind)
    with pytest.raises(OutputError, match="never changed"):
        make_one(doc, behind, tmp_path)
    target.unlink()
    os.mkfifo(target)
    with pytest.raises(OutputError):
        make_one(planned, master, tmp_path)


@pytest.fixture
def foreign(tmp_path, edit) -> Path:
    """A movie whose name is no UTF-8."""
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.mp4"))
    path.write_bytes(edit.read_bytes())
    return path


def test_a_name_that_is_no_utf8_is_kept_to_the_byte_and_shown_readably(capfdbinary, foreign, tmp_path):
    project, out = str(tmp_path / "p.ezvar"), Path(os.fsdecode(os.fsencode(tmp_path) + b"/o\xff"))
    assert main(["plan", str(foreign), "--master", "9:16", "-o", project]) == 0
    doc = load_project(project)
    assert doc.lock.name == "café"
    assert os.fsencode(doc.lock.media[0].path) == os.fsencode(foreign)
    assert b'"file-bytes": "caf%E9.mp4"' in Path(project).read_bytes()
    assert main(["check", project]) == 0
    assert main(["handoff", project, "--cuts", "edl", "-o", str(tmp_path / "h")]) == 0
    capfdbinary.readouterr()
    assert main(["make", project, "--range", "0-2", "-o", str(out)]) == 0
    assert os.fsencode(out / "café 9x16.mp4") in capfdbinary.readouterr().out
    assert (out / "café 9x16.mp4").is_file()
    assert "café.mp4: " in str(EzvarError("it is not there", file=foreign))
    assert readable(os.fsdecode(b"\xe6\xbc\xa2 \x93a\x94")) == "漢 “a”"


def test_a_project_written_with_half_signs_opens(foreign, tmp_path):
    """As such names were written before: JSON that most readers refuse."""
    doc = Document(lock_from_movie(probe(foreign)))
    save_project(doc, tmp_path / "p.ezvar")
    values = json.loads((tmp_path / "p.ezvar").read_bytes())
    lock = values["document"]["lock"]
    lock["media"][0]["path"] = foreign.name
    lock["name"] = foreign.stem
    (tmp_path / "old.ezvar").write_text(json.dumps(values))
    assert load_project(tmp_path / "old.ezvar") == doc


def test_unsaved_work_on_such_a_movie_is_kept_too(foreign, tmp_path):
    doc = Document(lock_from_movie(probe(foreign)))
    journal = Journal(tmp_path / "cache")
    journal.note(doc, foreign.with_suffix(".ezvar"), "revision")
    until = time.monotonic() + 10
    while not journal._file.exists() and time.monotonic() < until:
        time.sleep(0.02)
    journal._file.with_suffix(".lock").unlink()  # as if its program had been killed
    (left,) = leftovers(tmp_path / "cache")
    assert (left.document(), left.project, left.revision) == (doc, str(foreign.with_suffix(".ezvar")), "revision")
    journal.close()


_HOLD_A_PART = """
import sys, time
from ezvar.core.store import write_atomically
def write(file):
    file.write(b"half")
    file.flush()
    print("writing", flush=True)
    time.sleep(60)
write_atomically(sys.argv[1], write)
"""


def test_what_a_killed_program_was_writing_is_removed_later(tmp_path):
    living, dead = (
        subprocess.Popen([sys.executable, "-c", _HOLD_A_PART, tmp_path / name], stdout=subprocess.PIPE)
        for name in ("a", "b")
    )
    for process in (living, dead):
        assert process.stdout.readline() == b"writing\n"
    dead.kill()
    dead.wait()
    others = [tmp_path / name for name in (".notes.part", "movie.mp4.part", ".ezvar-0000aaaa-1-0000aaaa.part")]
    former = [tmp_path / ".p.ezvar.abcd1234.part", tmp_path / ".k.npz.abcd1234.part"]
    for path in (*others, *former):
        path.write_text("x")
    parts = {p for p in tmp_path.glob(".ezvar-*.part") if p not in others}
    assert len(parts) == 2

    def save() -> set[str]:
        write_atomically(tmp_path / "c", lambda file: file.write(b"whole"))
        return {p.name for p in tmp_path.iterdir()}

    everything = {p.name for p in (*others, *former, *parts)} | {"c"}
    assert save() == everything  # only just written: nobody's yet
    for path in (*parts, *others[:2], *former):
        os.utime(path, (time.time() - 3600,) * 2)
    held = next(p for p in parts if str(living.pid) in p.name)
    assert save() == everything - {p.name for p in parts - {held}}
    for path in (*others[:2], *former):
        os.utime(path, (1, 1))
    Proxy(tmp_path, [Span(0, 1, "strip", 0, 64, 36)])
    assert save() == {p.name for p in others} | {held.name, "c"}
    living.kill()
    for process in (living, dead):
        process.wait()
        process.stdout.close()
    assert Cache(tmp_path).put_arrays("key", {})
