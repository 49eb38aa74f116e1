"""Locks compared with a reference, locked again, put together from loose clips; work that survives a kill."""

import os
import random
import signal
import subprocess
import sys
import time
from dataclasses import replace
from fractions import Fraction

import cv2
import opentimelineio as otio
import pytest

from ezvar.core import edits
from ezvar.core.errors import InputError, ProjectError
from ezvar.core.framing import key_at
from ezvar.core.lock import (
    LockReader,
    LooseClip,
    conform,
    estimate_placements,
    link,
    lock_from_clips,
    match_by_source,
    take_lock,
)
from ezvar.core.media import MovieReader
from ezvar.core.model import (
    Document,
    Framing,
    Keyframe,
    Lock,
    Master,
    Media,
    Pane,
    Placement,
    PlacementKey,
    Shot,
    Source,
    Stretch,
    odd_shape,
)
from ezvar.core.planning import handed_out, plan, relocked
from ezvar.core.review import CUTS_KINDS, compare, read_return, write_cuts
from ezvar.core.store import Cache, Journal, Sets, leftovers, load_project, load_sets, save_project, save_sets
from ezvar.core.store.files import part_beside
from ezvar.core.timing import Rate
from ezvar.demo import DEMO_PROJECT, DEMO_SEEN

from ..making import make_one
from ..media import make_movie, number_in, scenes
from ..timelines import clip, make_media, make_timeline, track

pytestmark = pytest.mark.usefixtures("movement_alone")


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("relock")
    make_media(made)
    otio.adapters.write_to_file(make_timeline(), str(made / "edit.otio"))
    return made


@pytest.fixture(scope="module")
def flat(folder, tmp_path_factory):
    """The timeline's own flat movie."""
    doc = take_lock(folder / "edit.otio").doc
    doc = edits.add_master(doc, Master("own", "flat", 320, 180, "whole"))
    made = make_one(doc, doc.masters[0], tmp_path_factory.mktemp("flat"))
    return doc, made.path


def _present(doc):
    """Without the shots whose media were never there."""
    return {s.id for s in doc.shots if not doc.media_of(s).missing and not doc.media_of(s).path.endswith("c.mp4")}


def test_a_timeline_and_its_flat_movie_do_not_differ(flat):
    doc, movie = flat
    found = conform(doc, movie)
    assert found.facts == ()
    assert [d for d in found.shots if d.shot in _present(doc)] == []


def test_three_faults_are_exactly_the_three_found(flat, folder):
    doc, movie = flat
    wrong = list(doc.shots)
    wrong[0] = replace(wrong[0], source=replace(wrong[0].source, start=wrong[0].source.start + 7))
    wrong[3] = replace(wrong[3], source=replace(wrong[3].source, start=Fraction(20)))
    wrong[4] = replace(wrong[4], source=Source("b.mp4", Fraction(3), Fraction(0)))
    found = conform(replace(doc, shots=tuple(wrong)), movie)
    differing = {d.shot: d.what for d in found.shots if d.shot in _present(doc)}
    assert set(differing) == {wrong[0].id, wrong[3].id, wrong[4].id}
    assert "7 frames later" in differing[wrong[0].id]
    assert "another picture" in differing[wrong[4].id]
    other = replace(doc, lock=replace(doc.lock, start=90025, frames=279))
    assert any("starts at" in fact for fact in conform(other, movie).facts)


def test_placements_are_found_by_the_flat_movie(folder, tmp_path):
    doc = take_lock(folder / "edit.otio").doc
    rests = Placement(0.06, -0.04, 1.4)
    moves = Placement(keys=(PlacementKey(0, 0.0, 0.0, 1.0), PlacementKey(39, 0.1, 0.05, 1.5)))
    placed = edits.place_shots(doc, {doc.shots[0].id: rests, doc.shots[3].id: moves})
    placed = edits.add_master(placed, Master("own", "flat", 320, 180, "whole"))
    movie = make_one(placed, placed.masters[0], tmp_path).path
    found = estimate_placements(doc, movie)
    assert set(found.placements) == {doc.shots[0].id, doc.shots[3].id}
    for shot, true in ((doc.shots[0], rests), (doc.shots[3], moves)):
        for frame in (0, 10, 25, 39):
            said, is_ = found.placements[shot.id].at(frame), true.at(frame)
            assert abs(said.x - is_.x) < 0.01
            assert abs(said.y - is_.y) < 0.01
            assert abs(said.scale / is_.scale - 1) < 0.015


def _shot(id, start, length, first, media="a"):
    return Shot(id, start, start + length, Source(media, Fraction(first)))


def _laid(*parts):
    """A document of shots (id, length, first frame in media)."""
    media = tuple(Media(m, f"/{m}.mov", 192, 108, Rate(25), 5000, content=m) for m in "ab")
    shots, at = [], 0
    for id, length, first, *rest in parts:
        shots.append(_shot(id, at, length, first, *rest))
        at += length
    return Document(Lock("l", Rate(25), at, 192, 108, media=media, file="/l.otio"), tuple(shots))


def test_ten_kinds_of_change_carry_every_decision():
    old = _laid(
        ("same", 20, 0), ("moved", 20, 100), ("head", 30, 200), ("tail", 30, 300), ("longer", 20, 400),
        ("earlier", 20, 500), ("split", 40, 600), ("gone", 20, 700), ("first", 20, 800), ("second", 20, 900),
    )  # fmt: skip
    old = edits.add_master(old, Master("m", "9:16", 90, 160))
    keys = (Keyframe(0, cx=0.2), Keyframe(19, cx=0.7))
    old = edits.set_framings(old, [Framing(s.id, "m", (Pane(keys),), verdict="agreed") for s in old.shots])
    new = _laid(
        ("1", 20, 0), ("2", 20, 210), ("3", 20, 300), ("4", 30, 400), ("5", 30, 490), ("6", 20, 600), ("7", 20, 620),
        ("8", 20, 900), ("9", 20, 800), ("10", 20, 100), ("11", 20, 50, "b"),
    )  # fmt: skip
    old = edits.note_returns(edits.set_shared(old, "/team"), ("seen",))
    doc, listed = edits.carry(old, new, match_by_source(old, new))
    assert (doc.shared, doc.returns) == ("/team", ("seen",))
    assert [(c.change, c.old, c.new) for c in listed] == [
        ("unchanged", 1, 1), ("trimmed", 3, 2), ("trimmed", 4, 3), ("extended", 5, 4), ("extended", 6, 5),
        ("trimmed", 7, 6), ("split", 7, 7), ("moved", 10, 8), ("moved", 9, 9), ("moved", 2, 10), ("new", None, 11),
        ("removed", 8, None),
    ]  # fmt: skip
    assert [f.shot for f in doc.aside] == ["gone"]
    assert len(doc.framings) == 10
    assert all(f.verdict == "agreed" for f in doc.framings)
    for shot in doc.shots[:10]:  # each picture has the window that it had
        origin = next(s for s in old.shots if 0 <= shot.source.start - s.source.start < 60 or (s.id == "earlier"
                      and shot.id == "5"))  # fmt: skip
        ours, theirs = doc.framing(shot.id, "m").panes[0], old.framing(origin.id, "m").panes[0]
        frame = max(shot.source.start, origin.source.start)
        assert key_at(ours, int(frame - shot.source.start)).cx == pytest.approx(
            key_at(theirs, int(frame - origin.source.start)).cx
        )


def test_a_flat_lock_is_matched_by_its_pictures(tmp_path, cache):
    first = make_movie(tmp_path / "1.mp4", 80, size=(320, 180), picture=scenes)
    order = [*range(40, 60), *range(20), *range(25, 40), *range(60, 80)]
    again = make_movie(tmp_path / "2.mp4", len(order), size=(320, 180), picture=lambda n, w, h: scenes(order[n], w, h))
    old = plan(first, [Master("m", "9:16", 90, 160)], cache).doc
    doc, listed = relocked(old, again, cache)
    assert [(c.change, c.old, c.new) for c in listed] == [
        ("moved", 3, 1), ("moved", 1, 2), ("trimmed", 2, 3), ("moved", 4, 4),
    ]  # fmt: skip
    assert len(doc.framings) == 4
    later = doc.earlier[0].stretches[2].was - 20
    assert 2 <= later <= 8  # of the five that were cut off; scenes move slowly
    moved = Pane(keys=(Keyframe(0, 0.1), Keyframe(9, 0.7)))
    theirs = edits.set_framings(old, [replace(f, panes=(moved,)) for f in old.framings])
    handed_out(replace(theirs, exchanged=handed_out(old, tmp_path / "sent")[0].exchanged), tmp_path / "out")
    twice = edits.carry(doc, replace(old, framings=()), {old.shots[0].id: edits.Match(doc.shots[1].id, 0)})[0]
    for file in (f for f in (tmp_path / "out").glob("*") if f.name.endswith((".otio", "decisions.json"))):
        (back,) = read_return(doc, file)
        compared = {c.ours.shot: c for c in compare(doc, back)[0] if c.ours is not None}
        assert [compared[s.id].state for s in doc.shots] == ["theirs"] * 4
        keys = [[k.frame for k in compared[s.id].theirs.panes[0].keys] for s in doc.shots]
        assert keys == [[0, 9], [0, 9], [-later, 9 - later], [0, 9]]
        cut = edits.add_cut(doc, 24)  # four frames into what was the first shot
        compared = {c.ours.shot: c for c in compare(cut, back)[0] if c.ours is not None}
        assert [k.frame for k in compared[cut.shot_at(30).id].theirs.panes[0].keys] == [-4, 5]
        assert twice.earlier[1].stretches == (Stretch(0, 0, 20),)
    save_project(doc, tmp_path / "p.ezvar")
    (earlier,) = load_project(tmp_path / "p.ezvar").earlier
    assert earlier.stretches[::2] == (Stretch(40, 0, 20), Stretch(20 + later, 40, min(15, 20 - later)))


def test_a_trailer_has_the_decisions_of_the_long_lock(tmp_path, monkeypatch):
    """Both as a flat movie of its own, smaller and coded worse, and as a timeline cut from the finished movie."""
    monkeypatch.setattr("ezvar.core.evidence.tasks._LOADED", [])  # as what comes with the demo was seen
    cache = Cache(tmp_path / "cache", shipped=DEMO_SEEN)
    demo = load_project(DEMO_PROJECT)
    with MovieReader(demo.lock.media[0].path) as reader:
        pieces = [(s, s.start + 8, s.end - 8) for s in (demo.shots[k] for k in (13, 2, 6, 4))]
        made = [
            cv2.cvtColor(reader.frame(n).rgb(320, 180), cv2.COLOR_RGB2BGR) for _, a, b in pieces for n in range(a, b)
        ]
    made = [cv2.imdecode(cv2.imencode(".jpg", m, [cv2.IMWRITE_JPEG_QUALITY, 40])[1], 1)[..., ::-1] for m in made]
    flat = make_movie(tmp_path / "trailer.mp4", len(made), size=(320, 180), picture=lambda n, w, h: made[n])
    timeline = otio.schema.Timeline("trailer")
    media, first = demo.lock.media[0], demo.shots[5].start - 30
    parts = (media.start + first, 70), (media.start + 10, 30)
    timeline.tracks.append(track(*(clip("c", media.path, start, length) for start, length in parts)))
    otio.adapters.write_to_file(timeline, str(tmp_path / "trailer.otio"))
    short, listed = relocked(demo, flat, cache)
    assert [(c.old, c.new) for c in listed if c.change == "trimmed"] == [(14, 1), (3, 2), (7, 3), (5, 4)]
    frames, master = iter(range(short.lock.frames)), demo.masters[0]
    for shot, a, b in pieces:
        for n in range(a, b):
            here = short.shot_at(k := next(frames))
            (there,), (pane,) = short.framing(here.id, master.id).panes, demo.framing(shot.id, master.id).panes
            assert key_at(there, k - here.start).cx == pytest.approx(key_at(pane, n - shot.start).cx, abs=0.01)
    cut, listed = relocked(demo, tmp_path / "trailer.otio", cache)
    assert [(c.old, c.new) for c in listed if c.new] == [(5, 1), (6, 2), (1, 3)]
    assert [s.start for s in cut.shots] == [0, 30, 70]


def test_loose_clips_make_a_small_lock(folder):
    clips = [LooseClip(folder / "a.mp4", 10, 40), LooseClip(folder / "still.png", 0, 15), LooseClip(folder / "b.mp4")]
    doc = lock_from_clips(clips)
    assert [(s.start, s.end) for s in doc.shots] == [(0, 30), (30, 45), (45, 105)]
    assert (doc.lock.rate, len(doc.lock.sound)) == (Rate(25), 1)
    with LockReader(doc) as reader:
        assert [number_in(reader.frame(n).planes().y) for n in (0, 29, 30, 44, 45, 46)] == [10, 39, 77, 77, 0, 2]
    for bad in ([], [LooseClip(folder / "a.mp4", 30, 20)], [LooseClip(folder / "a.mp4", 0, 900)]):
        with pytest.raises(InputError):
            lock_from_clips(bad)


@pytest.mark.parametrize("kind", CUTS_KINDS)
def test_cuts_alone_are_read_by_a_plain_reader(folder, tmp_path, kind):
    doc = take_lock(folder / "edit.otio").doc
    doc = edits.link_media(doc, [link(doc, "missing/x.mov", folder / "c.mp4")])
    (file,) = write_cuts(doc, tmp_path, kind)
    if kind == "edl":
        again = take_lock(file, Rate(25), [folder]).doc
        assert [s.start for s in again.shots if s.start not in (34, 40)] == [
            s.start for s in doc.shots if s.start not in (34, 40)
        ]
        return
    read = otio.adapters.read_from_file(str(file))
    if kind == "subclips":
        assert [c.source_range.duration.rescaled_to(25).value for c in read] == [s.frames for s in doc.shots]
    elif kind == "markers":
        marks = [m.marked_range.start_time.value for t in read.tracks for m in t.markers]
        assert marks == [s.cut.start for s in doc.shots[1:]]
    else:
        assert len(list(read.find_clips())) == len(doc.shots)


def test_masters_are_duplicated_changed_ordered_and_kept_in_sets(planned, tmp_path):
    doc, new = edits.duplicate_master(planned, "tall")
    assert [m.name for m in doc.masters] == ["9:16", "9:16 2", "1:1"]
    copies = [replace(f, master="tall") for f in doc.framings if f.master == new.id]
    assert copies == [f for f in planned.framings if f.master == "tall"]
    assert [m.id for m in edits.move_master(doc, new.id, -5).masters] == [new.id, "tall", "square"]
    with pytest.raises(ValueError, match="already"):
        edits.change_master(doc, replace(new, name="1:1"))
    assert odd_shape("9:16", 1080, 1920) == ""
    assert "Is that meant?" in odd_shape("tall 9:16", 1920, 1080)
    sets = replace(Sets().put("usual", planned.masters), default="usual")
    save_sets(sets, tmp_path / "deep" / "sets.json")
    assert load_sets(tmp_path / "deep" / "sets.json").first.masters == planned.masters
    assert load_sets(tmp_path / "none.json") == Sets()
    (tmp_path / "bad.json").write_text('{"ezvar master sets": 1, "sets": [{"name": ""}], "default": ""}')
    with pytest.raises(ProjectError):
        load_sets(tmp_path / "bad.json")


EDITING = """
import sys, time
from dataclasses import replace
from ezvar.core.store import Cache, Journal, load_project
doc = load_project(sys.argv[1])
journal = Journal(sys.argv[2])
for n in range(100_000):
    doc = replace(doc, lock=replace(doc.lock, name=f"edit {n}"))
    journal.note(doc, sys.argv[1])
    print(n, time.time(), flush=True)
    time.sleep(0.02)
"""


def test_a_kill_costs_at_most_the_last_second(planned, tmp_path):
    from ezvar.core.store import save_project

    save_project(planned, tmp_path / "p.ezvar")
    rng = random.Random(4)
    for round_ in range(4):
        cache = tmp_path / f"cache {round_}"
        editing = subprocess.Popen(
            [sys.executable, "-c", EDITING, str(tmp_path / "p.ezvar"), str(cache)], stdout=subprocess.PIPE, text=True
        )
        editing.stdout.readline()
        time.sleep(1.2 + rng.random())
        assert leftovers(cache) == []  # it still lives
        os.kill(editing.pid, signal.SIGKILL)
        killed = time.time()
        whole, _, _ = editing.stdout.read().rpartition("\n")  # the last line may be cut in two
        said = [line.split() for line in whole.splitlines()]
        editing.wait()
        (left,) = leftovers(cache)
        kept = int(left.document().lock.name.split()[1])
        lost = [float(when) for n, when in said if int(n) > kept]
        assert not lost or killed - lost[0] < 2.0  # a second, and what a busy machine takes
        assert left.project == str(tmp_path / "p.ezvar")
        left.discard()
        folder = cache / "journal"
        begun = part_beside(folder / "a.journal").name.replace(f"-{os.getpid()}-", f"-{editing.pid}-")
        for name in (begun, f"{editing.pid}-1.lock"):  # as other moments leave them
            (folder / name).touch()
        for each in folder.iterdir():
            os.utime(each, (1, 1))
        assert leftovers(cache) == []
        assert list(folder.iterdir()) == []


def test_a_journal_closed_in_good_order_leaves_nothing(planned, tmp_path):
    journal = Journal(tmp_path)
    journal.note(planned, None)
    deadline = time.monotonic() + 10
    while not list((tmp_path / "journal").glob("*.journal")) and time.monotonic() < deadline:
        time.sleep(0.02)
    assert [f.suffix for f in sorted((tmp_path / "journal").iterdir())] == [".journal", ".lock"]
    journal.close()
    assert list((tmp_path / "journal").iterdir()) == []
