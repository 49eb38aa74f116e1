"""Timelines taken in: what they say, what their shots show frame by frame, and their media found again."""

import zipfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.io import wavfile

import ezvar.core.evidence.gather as gather_module
import ezvar.core.framing.solver.solve as solve_module
import ezvar.core.lock.pictures as pictures_module
from ezvar.cli import main
from ezvar.core import edits
from ezvar.core.errors import EzvarError, TimelineError
from ezvar.core.lock import (
    LockReader,
    RateNeeded,
    find_media,
    link,
    lock_content,
    lock_sound,
    media_frames,
    missing,
    parts_at,
    shown_part,
    take_lock,
)
from ezvar.core.media import probe, sound_blocks
from ezvar.core.model import BLACK, Placement, PlacementKey, Rect, SoundClip
from ezvar.core.planning import plan, taken_in
from ezvar.core.store import load_project, save_project
from ezvar.core.timelines import bundled
from ezvar.core.timing import Rate

from ..making import make_one
from ..media import make_movie, number_in
from ..timelines import EDL, Range, Time, clip, gap, handed_timelines, make_aaf, make_media, make_timeline, track

SHOTS = [
    (0, 40, "a.mp4", 10, 1), (40, 80, "b.mp4", 20, 2), (80, 90, "black", 0, 0), (90, 130, "a.mp4", 100, 0.5),
    (130, 155, "still.png", 0, 0), (155, 175, "a.mp4", 150, 0), (175, 195, "c.mp4", 10, 1),
    (195, 205, "a.mp4", 60, 1), (205, 230, "missing/x.mov", 0, 1), (230, 255, "http://example.org/x.mov", 0, 1),
    (255, 267, "black", 0, 0), (267, 279, "a.mp4", 0, 1),
]  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("timeline")
    make_media(made)
    (made / "edit.edl").write_text(EDL)
    otio.adapters.write_to_file(make_timeline(), str(made / "edit.otio"))
    return made


@pytest.fixture(scope="module")
def taken(folder):
    return take_lock(folder / "edit.otio")


def _shots(doc):
    return [(s.start, s.end, s.source.media.rsplit("|")[-1], s.source.start, s.source.step) for s in doc.shots]


def test_a_timeline_says_what_it_says(taken):
    doc = taken.doc
    assert _shots(doc) == SHOTS
    assert (doc.lock.rate, doc.lock.frames, doc.lock.start) == (Rate(25), 279, 90000)
    assert (doc.lock.width, doc.lock.height) == (320, 180)  # what most of its media have
    cut = doc.shots[1].cut
    assert (cut.kind, cut.start, cut.end) == ("dissolve", 34, 46)
    assert [(t.name, t.start, t.end) for t in doc.lock.layers] == [("title", 5, 25)]
    assert doc.lock.sound == (SoundClip("a.mp4", 0, 60, Fraction(10, 25)),)
    assert [(n.text, n.start) for n in doc.lock.notes] == [("look here", 270)]
    assert doc.lock.left_out == (
        "“off” is switched off; its place is black.",
        "“fx”: the effect “Sharpen” is not drawn.",
    )


def test_a_movie_that_is_another_now_is_opened_once_and_not_for_every_still(tmp_path, monkeypatch):
    doc = take_lock(make_movie(tmp_path / "m.mp4", 30), None, [], tmp_path).doc
    media = replace(doc.lock.media[0], frames=31)
    opened = []
    real = pictures_module.MovieReader
    monkeypatch.setattr(pictures_module, "MovieReader", lambda path, **rest: opened.append(path) or real(path))
    with LockReader(replace(doc, lock=replace(doc.lock, media=(media,)))) as reader:
        assert [reader.quick_frame(0, 30, n) for n in (3, 7, 9)] == [3, 7, 9]
        assert len(opened) == 1
        assert reader._failed[media.id].__traceback__ is None  # it would hold whoever asked, and what he draws with
        reader.forget(media.id)
        assert reader.facts is None
        assert len(opened) == 2


def test_missing_and_remote_media_cost_nothing_else(taken):
    assert {m.id for m in missing(taken.doc)} == {"missing/x.mov", "http://example.org/x.mov", "t.png"}
    assert any("not opened" in p for p in taken.search.problems)
    assert [g.path.name for g in taken.search.guesses["t.png"]] == ["still.png"]
    told = []
    with LockReader(taken.doc, lambda media, error: told.append(media)) as reader:
        assert [reader.frame(n).planes().y.max() for n in (210, 211, 240, 85)] == [16] * 4  # black
        assert number_in(reader.frame(270).planes().y) == 3
    assert told == ["missing/x.mov", "http://example.org/x.mov"]


@pytest.mark.parametrize(
    ("frame", "numbers"),
    [
        (0, [10]), (33, [43]), (34, [44, 8]), (39, [49, 18]), (40, [20, 50]), (45, [30, 55]), (46, [32]), (79, [98]),
        (90, [100]), (91, [100]), (92, [101]), (130, [77]), (171, [150]), (200, [65]), (278, [11]),
    ],
)  # fmt: skip
def test_every_frame_shows_what_the_timeline_says(taken, frame, numbers):
    with LockReader(taken.doc) as reader:
        assert [number_in(reader.picture(s, frame).planes().y) for s, _ in parts_at(reader.doc, frame)] == numbers


@given(st.fractions(-5, 40, max_denominator=50))
def test_frames_of_another_rate_follow_the_stated_rule(position):
    ((nearest, weight),) = media_frames(position, 30, "nearest")
    assert (nearest, weight) == (min(29, max(0, position.__floor__())), 1.0)
    blended = media_frames(position, 30, "blended")
    assert sum(w for _, w in blended) == pytest.approx(1)
    if 0 <= position <= 29:
        assert sum(n * w for n, w in blended) == pytest.approx(float(position), abs=0.051)


def test_blending_mixes_two_frames(folder, taken):
    doc = replace(taken.doc, lock=replace(taken.doc.lock, rule="blended"))
    with LockReader(taken.doc) as near, LockReader(doc) as blended:
        a, b = (near.picture(doc.shots[3], n).planes().y.astype(float) for n in (90, 92))
        assert np.abs(blended.frame(91).planes().y - (a + b) / 2).mean() < 1


def test_sound_lies_under_its_frames(taken):
    whole = np.concatenate(list(lock_sound(taken.doc, channels=1)), axis=1)[0]
    assert len(whole) == round(279 / 25 * 48_000)
    loud = [np.abs(whole[n * 1920 + 200 : n * 1920 + 1700]).max() > 0.2 for n in range(100)]
    inside = np.arange(200, 1700) / 48_000  # the media beeps for a frame each half second
    beeps = [n for n in range(60) if ((((n + 10) / 25 + inside) % 0.5) < 0.038).mean() > 0.05]
    assert [n for n, on in enumerate(loud) if on] == beeps
    part = np.concatenate(list(lock_sound(taken.doc, 20, 60, channels=1)), axis=1)[0]
    assert np.abs(part - whole[20 * 1920 : 60 * 1920]).max() < 0.02


def test_an_edl_is_read_event_by_event(folder):
    with pytest.raises(RateNeeded) as needed:
        take_lock(folder / "edit.edl")
    assert Rate(25) in needed.value.choices
    doc = take_lock(folder / "edit.edl", Rate(25)).doc
    assert _shots(doc) == [
        (0, 46, "a.mp4", 10, 1), (46, 90, "b.mp4", 32, 2), (90, 140, "a.mp4", 100, 0.5), (140, 170, "black", 0, 0),
        (170, 190, "a.mp4", 30, 1), (190, 215, "a.mp4", 25, 1),
    ]  # fmt: skip
    assert [s.cut.kind for s in doc.shots[1:]] == ["dissolve", "cut", "cut", "wipe", "cut"]
    assert [(n.text, n.start) for n in doc.lock.notes] == [("check the lamp", 0), ("a marker", 175)]
    assert [c.track for c in doc.lock.sound] == [1, 2]
    said = "\n".join(doc.lock.left_out)
    for part in ("GARBAGE", "008  XX", "Event 006, line 18: its source lasts 50", "Event 007, line 20: it ends before"):
        assert part in said
    assert len(doc.lock.left_out) == 4


def test_sound_that_cannot_be_heard_is_listed_with_its_stretch(tmp_path, capsys):
    """Not found, gone since, cut short, damaged: by the check, and after making what is made all the same."""
    make_movie(tmp_path / "a.mp4", 100, size=(160, 90))
    tone = (9000 * np.sin(np.arange(48_000) / 20)).astype(np.int16)
    for name in ("good.wav", "gone.wav", "short.wav"):
        wavfile.write(tmp_path / name, 48_000, tone)
    clips = [clip(n, n, 0, 20) for n in ("good.wav", "never.wav", "gone.wav", "short.wav")]
    timeline = otio.schema.Timeline("t", global_start_time=Time(90_000, 25))
    timeline.tracks.extend([track(clip("a", "a.mp4", 0, 80)), track(*clips, kind="Audio")])
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
    project = str(tmp_path / "p.ezvar")
    assert main(["plan", str(tmp_path / "t.otio"), "--master", "m=90x160", "-o", project]) == 1
    (tmp_path / "gone.wav").unlink()
    data = (tmp_path / "short.wav").read_bytes()
    (tmp_path / "short.wav").write_bytes(data[:20_000])
    capsys.readouterr()
    assert main(["check", project]) == 1
    checked = capsys.readouterr().out
    for said in ("between 01:00:00:20 and 01:00:01:15: never.wav", "between 01:00:01:15 and 01:00:02:10: gone.wav"):
        assert f"Sound is missing {said}: it" in checked
    assert "short.wav is no longer the media" in checked
    assert main(["make", project, "-o", str(tmp_path)]) == 1
    made = capsys.readouterr().out
    assert "never.wav" in made
    assert "gone.wav" in made
    cut = "short.wav: its sound is cut short, 0.2 of the 0.8 s that are used are there"
    assert f"between 01:00:02:10 and 01:00:03:05: {cut}" in made
    assert "good.wav" not in made
    heard = np.concatenate(list(sound_blocks(probe(tmp_path / "t m.mp4"), channels=1)), axis=1)[0]
    loud = np.abs(heard).reshape(-1, 9600).max(axis=1) > 0.1
    assert np.flatnonzero(loud).tolist() == [0, 1, 2, 3, 12, 13]
    (tmp_path / "good.wav").write_text("no sound")
    (tmp_path / "short.wav").unlink()
    assert main(["make", project, "-o", str(tmp_path)]) == 1
    assert "between 01:00:00:00 and 01:00:00:20: good.wav" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("change", "rate", "said"),
    [
        (("10:00:01:15", "10:00:01:26"), 25, "line 4"),
        (("10:00:00:00", "10:00:00;00"), 25, "drop-frame"),
        (("01:00:00:10", "01:00:00:24"), 24, "line 4"),
    ],
)
def test_a_wrong_rate_is_refused_with_the_line_that_shows_it(tmp_path, change, rate, said):
    (tmp_path / "a.edl").write_text(EDL.replace(*change))
    with pytest.raises(TimelineError, match=said):
        take_lock(tmp_path / "a.edl", Rate(rate))


def test_a_timeline_goes_all_the_way(folder, cache, tmp_path):
    """Planned, saved, handed off, read by a plain reader, taken back, made."""
    from ezvar.core.model import Master

    taken = plan(folder / "edit.otio", [Master("tall", "9:16", 90, 160)], cache)
    save_project(taken.doc, tmp_path / "p.ezvar")
    doc = load_project(tmp_path / "p.ezvar")
    assert replace(doc, lock=replace(doc.lock, file="")) == replace(taken.doc, lock=replace(taken.doc.lock, file=""))
    doc, (file,) = handed_timelines(doc, tmp_path / "h")
    plain = otio.adapters.read_from_file(str(file))
    clips = list(plain.video_tracks()[0].find_clips())
    assert len(clips) == 12
    assert sum(c.source_range.duration.rescaled_to(25).value for c in clips) == 279
    assert _shots(take_lock(file, folders=[folder]).doc)[3][3:] == (100, 0.5)
    _, back = taken_in(doc, file)
    assert (back.same, back.conflicts, back.problems) == (12, (), ())
    made = make_one(doc, doc.masters[0], tmp_path / "out")
    assert made.frames == 279
    assert len(made.problems) == 3  # two missing media, and the title's, and nothing else
    assert all("not found" in p for p in made.problems)


def test_missing_media_are_neither_looked_at_nor_solved_and_framed_once_they_are_found(tmp_path, cache, monkeypatch):
    from ezvar.core.model import Master

    (tmp_path / "a.edl").write_text(EDL)
    with monkeypatch.context() as patched:
        patched.setattr(gather_module.Gatherer, "add", None)
        solved = []
        patched.setattr(solve_module, "solve_shot", lambda place, *_: solved.append(place.shot) or place.framing)
        doc = plan(tmp_path / "a.edl", [Master("tall", "9:16", 90, 160)], cache, rate=Rate(25)).doc
    black = {s.id for s in doc.shots if s.source.media == BLACK}
    assert {s.id for s in solved} == black
    assert {f.why for f in doc.framings if f.shot not in black} == {"The middle: its media are not there."}
    asked = edits.set_verdict(doc, doc.shots[0].id, "tall", "agreed")
    (tmp_path / "media").mkdir()
    make_media(tmp_path / "media")
    links, _ = find_media(asked, [tmp_path / "media"])
    linked = edits.link_media(asked, links)
    there = {link.old.id for link in links}
    kept = {s.id for s in doc.shots if s.source.media not in there} | {doc.shots[0].id}
    assert there
    assert {f.shot for f in linked.framings} == kept


def test_media_are_found_by_path_name_reel_and_offered_when_alike(folder, tmp_path):
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    by_reel = clip("scene 4", "", 90020, 10)
    by_reel.media_reference, by_reel.metadata["cmx_3600"] = otio.schema.MissingReference(), {"reel": "a"}
    timeline.tracks.append(
        track(
            clip("far", str(folder / "b.mp4"), 2 * 3600 * 50, 20, 50), clip("name", "D:\\films\\A.MP4", 90000, 10),
            by_reel, clip("near", "sstill.png", 0, 5),
        )
    )  # fmt: skip
    otio.adapters.write_to_file(timeline, str(tmp_path / "t.otio"))
    first = take_lock(tmp_path / "t.otio")
    assert len(missing(first.doc)) == 4
    assert any("outside the media folders" in p for p in first.search.problems)
    links, search = find_media(first.doc, [folder])
    doc = edits.link_media(first.doc, links)
    assert [m.name for m in missing(doc)] == ["sstill.png"]
    guess = search.guesses["sstill.png"][0]
    assert (guess.path.name, guess.sure) == ("still.png", False)
    doc = edits.link_media(doc, [link(doc, "sstill.png", guess.path)])
    assert not missing(doc)
    assert lock_content(doc) != lock_content(first.doc)
    with LockReader(doc) as reader:
        assert [number_in(reader.frame(n).planes().y) for n in (0, 9, 10, 20, 30)] == [0, 18, 0, 20, 77]
    late = otio.schema.Timeline("late", global_start_time=Time(0, 25))
    late.tracks.append(track(clip("late", "a.mp4", 90150, 10)))
    otio.adapters.write_to_file(late, str(folder / "late.otio"))
    doc = take_lock(folder / "late.otio").doc
    with pytest.raises(EzvarError, match="nothing of what the edit uses"):
        link(doc, "a.mp4", folder / "c.mp4")


def test_splitting_a_shot_keeps_what_is_shown(taken):
    doc = edits.add_cut(taken.doc, 101)
    assert lock_content(doc) == lock_content(taken.doc)
    assert doc.shot_at(101).source.start == Fraction(211, 2)


def test_placements_show_a_part_and_follow_their_keys(taken):
    half = Placement(scale=2.0, keys=(PlacementKey(0, scale=2.0), PlacementKey(10, x=0.5, scale=2.0)))
    assert shown_part(half, (320, 180), (320, 180), 0) == Rect(0.25, 0.25, 0.5, 0.5)
    assert shown_part(half, (320, 180), (320, 180), 10) == Rect(0.0, 0.25, 0.5, 0.5)
    upright = shown_part(Placement(), (180, 320), (320, 180), 0)
    assert upright == Rect()
    shots = (replace(taken.doc.shots[0], placement=half), *taken.doc.shots[1:])
    doc = replace(taken.doc, shots=shots)
    with LockReader(doc) as part, LockReader(taken.doc) as whole:
        seen = part.frame(0)
        assert (seen.width, seen.height) == (160, 90)
        assert np.abs(seen.planes().y.astype(int) - whole.frame(0).planes().y[44:134, 80:240]).mean() < 8
    full = replace(doc, shots=(replace(shots[0], uses="the full source"), *shots[1:]))
    with LockReader(full) as reader:
        assert reader.frame(0).width == 320


def _deep(levels):
    stack = '{"OTIO_SCHEMA": "Stack.1", "children": ['
    return '{"OTIO_SCHEMA": "Timeline.1", "tracks": ' + stack * (levels + 1) + "]}" * (levels + 1) + "}"


def _bundle(path, name):
    with zipfile.ZipFile(path, "w") as bundle:
        bundle.writestr("content.otio", make_timeline().to_json_string())
        bundle.writestr(name, b"x")


def _odd_ranges():
    good = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    odd = [otio.schema.Clip("odd", None, Range(Time(0, 25), Time(length, rate))) for length, rate in ((-5, 25), (5, 0))]
    good.tracks.append(track(clip("good", "a.mp4", 90000, 10), *odd))
    return good.to_json_string()


BAD = {
    "deep.otio": (lambda p: p.write_text(_deep(3000)), "nested in it too deeply"),
    "nested.otio": (lambda p: p.write_text(_deep(60)), "nothing in it"),
    "junk.edl": (lambda p: p.write_bytes(b"\x8b\x00\x01" * 50_000), "not an edit decision list"),
    "large.edl": (lambda p: p.write_bytes(b"junk " * (20 * 1024**2 // 5)), "far too large"),
    "text.edl": (lambda p: p.write_text("once upon a time\n" * 50), "no event"),
    "no.aaf": (lambda p: p.write_text("no aaf"), "not an AAF"),
    "broken.aaf": (lambda p: p.write_bytes(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 9000), "not an AAF"),
    "escape.otioz": (lambda p: _bundle(p, "../../out.mp4"), "would leave its folder"),
    "no.otioz": (lambda p: p.write_text("no zip"), "not a bundle"),
    "text.otio": (lambda p: p.write_text("{}"), "not a timeline|no timeline"),
    "latin.edl": (lambda p: p.write_text("TITLE: caf\xe9\n", encoding="latin-1"), "no event"),
    "gone.otio": (lambda p: None, "not there"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_timelines_get_one_plain_sentence(tmp_path, name):
    make, said = BAD[name]
    make(tmp_path / name)
    with pytest.raises(EzvarError, match=said) as raised:
        take_lock(tmp_path / name, Rate(25), unpack=tmp_path / "into")
    assert str(raised.value).count("\n") == 0
    assert not (tmp_path.parent / "out.mp4").exists()


def test_odd_ranges_cost_only_themselves(folder):
    (folder / "odd.otio").write_text(_odd_ranges())
    doc = take_lock(folder / "odd.otio").doc
    assert [(s.start, s.end) for s in doc.shots] == [(0, 10)]
    assert all("left out" in said for said in doc.lock.left_out)
    assert doc.lock.left_out


def test_a_bundle_brings_its_media(folder, tmp_path, monkeypatch):
    monkeypatch.setattr(bundled, "_PIECE", 1000)  # and in many pieces
    timeline = otio.schema.Timeline("t", global_start_time=Time(0, 25))
    timeline.tracks.append(track(clip("a", "media/a.mp4", 90000, 10), gap(5), clip("a", "media/a.mp4", 90020, 10)))
    with zipfile.ZipFile(tmp_path / "t.otioz", "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.writestr("content.otio", timeline.to_json_string())
        bundle.write(folder / "a.mp4", "media/a.mp4")
    doc = take_lock(tmp_path / "t.otioz", unpack=tmp_path / "into").doc
    assert not missing(doc)
    assert Path(doc.lock.media[0].path).read_bytes() == (folder / "a.mp4").read_bytes()


def test_an_aaf_is_read_with_all_that_it_states(folder, tmp_path):
    make_aaf(tmp_path / "t.aaf")
    doc = take_lock(tmp_path / "t.aaf", folders=[folder]).doc
    assert [s.frames for s in doc.shots] == [40, 10, 15, 5, 10, 20, 10, 15, 40, 15]
    assert (doc.shots[1].cut.kind, doc.shots[1].cut.start, doc.shots[1].cut.end) == ("dissolve", 34, 46)
    assert [s.source.step for s in doc.shots[-2:]] == [Fraction(1, 2), 0]
    assert doc.lock.layers == ()  # what hides the edit is the edit
    assert [(c.start, c.end) for c in doc.lock.sounds] == [(0, 70)]
    with LockReader(doc) as reader:
        seen = [number_in(reader.picture(s, s.start + 8).planes().y) for s in doc.shots if not doc.media_of(s).missing]
    assert seen == [18, 108, 13, 133, 0, 28, 9, 58, 64, 90]
