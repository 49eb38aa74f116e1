"""Finished movies: whole, in sync, checked; and what is left when making them fails."""

import os
import subprocess
import sys
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import opentimelineio as otio
import pytest

from ezvar.core import edits
from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import InputError, MediaError, OutputError
from ezvar.core.framing import pane_window, picture_size
from ezvar.core.lock import take_lock
from ezvar.core.media import MovieReader, Planes, probe, sound_blocks
from ezvar.core.model import Backdrop, Framing, Keyframe, Master, NamedRange, Pane, Rect
from ezvar.core.output import Order, listed_rows, make_rows, parse_range, row_names, targets
from ezvar.core.output.checking import Expected, check_facts
from ezvar.core.planning import plan
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.store import save_project
from ezvar.core.timing import FrameRange, Rate

from ..making import make_one
from ..media import make_movie
from ..timelines import Time, clip, track


def test_named_ranges_are_made_instead_of_the_whole(planned, tmp_path):
    parts = (NamedRange("teaser", 5, 17), NamedRange("rest", 20, 30))
    master = replace(planned.masters[0], ranges=parts)
    doc = edits.change_master(planned, master)
    wanted = [r for r in listed_rows(doc, DELIVERY) if r.master == master.id]
    assert [(row.label, row.start, row.end) for row in wanted] == [("teaser", 5, 17), ("rest", 20, 30)]
    assert len({row.id for row in wanted}) == 2
    where = targets(doc, wanted, tmp_path)
    made = make_rows([Order(doc, row, where[row.id]) for row in wanted])
    assert [m.frames for m in made] == [12, 10]
    assert not any(m.problems for m in made)
    assert "teaser" in made[0].path.name
    assert [(row.start, row.end) for row in listed_rows(planned, DELIVERY)] == [(0, 80), (0, 80)]


def test_a_made_movie_is_what_was_decided(planned, tmp_path):
    """Size, length, rate and sound, and on each shot the window's part of the lock."""
    told = []
    folder = tmp_path / "new" / "folder"
    made = make_one(planned, planned.masters[0], folder, progress=lambda f, m: told.append(f))
    assert made.problems == ()
    assert made.path.name == "walk 9x16.mp4"
    assert told == sorted(told)
    facts = probe(made.path)
    assert (facts.width, facts.height, facts.frames, facts.rate) == (180, 320, 80, Rate(25))
    assert [p.name for p in made.path.parent.iterdir()] == [made.path.name]
    master = planned.masters[0]
    with MovieReader(made.path) as got, MovieReader(planned.lock.media[0].path) as lock:
        for shot in planned.shots:
            frame = shot.start + 9
            window = pane_window(planned.framing(shot.id, master.id).panes[0], master, picture_size(planned, shot), 9)
            rows, columns = (
                slice(round(window.top), round(window.top + window.height)),
                slice(round(window.left), round(window.left + window.width)),
            )
            wanted = lock.frame(frame).planes().y[rows, columns].astype(float)
            have = got.frame(frame).planes().y.astype(float)
            small = (16, 9)
            assert np.abs(_shrunk(have, small) - _shrunk(wanted, small)).mean() < 6


def _shrunk(plane, shape):
    rows = np.array_split(plane, shape[0], axis=0)
    return np.array([[part.mean() for part in np.array_split(row, shape[1], axis=1)] for row in rows])


def _flashing(n, width, height):
    return np.full((height, width, 3), 230 if Fraction(n, 25) % Fraction(1, 2) < Fraction(1, 25) else 20, np.uint8)


@pytest.mark.parametrize("span", [None, FrameRange(20, 71)])
def test_beeps_stay_under_their_flashes(tmp_path, cache, span):
    """Each flash of one frame has its beep, to a tenth of a frame, also in a part of the lock."""
    lock = make_movie(tmp_path / "clap.mp4", 90, sound="beeps", picture=_flashing)
    doc = plan(lock, [Master("m", "m", 64, 96)], cache).doc
    made = make_one(doc, doc.masters[0], tmp_path, span)
    assert made.problems == ()
    facts = probe(made.path)
    with MovieReader(made.path) as reader:
        bright = [n for n, p in enumerate(reader.frames()) if p.stored.y.mean() > 120]
    sound = np.concatenate(list(sound_blocks(facts)), axis=1)[0]
    loud = np.abs(sound) > 0.2
    starts = [int(i) for i in np.flatnonzero(loud) if not loud[max(0, i - 4000) : i].any()]
    offset = 20 if span else 0
    end = 71 if span else 90
    assert [n + offset for n in bright] == [n for n in (0, 13, 25, 38, 50, 63, 75, 88) if offset <= n < end]
    assert len(starts) == len(bright)
    for start, n in zip(starts, bright, strict=True):
        beep = Fraction(round((n + offset) / 12.5) * 24_000 - offset * 1920, 48_000)
        assert abs(Fraction(start, 48_000) - beep) < Fraction(4, 1000)


@pytest.mark.parametrize("said", [{"color_primaries": 9, "color_trc": 14, "colorspace": 9, "color_range": 1}, {}])
def test_colour_tags_are_kept_or_said_as_they_were_meant(tmp_path, cache, said):
    lock = make_movie(tmp_path / "tags.mp4", 6, tags=said)
    doc = plan(lock, [Master("m", "m", 64, 96)], cache).doc
    made = make_one(doc, doc.masters[0], tmp_path)
    with MovieReader(made.path) as reader:
        tags = reader.frame(0).tags
    if said:
        assert (tags.primaries, tags.transfer, tags.matrix, tags.range) == (9, 14, 9, 1)
    else:
        assert tags.matrix == 6  # a small lock meant BT.601


def test_media_that_are_coded_otherwise_keep_their_colours_in_mixes_panes_and_backdrops(tmp_path):
    """BT.601 in limited and BT.709 in full range, cut and mixed in one edit: one colour all through."""
    rgb = np.tile(np.array([200, 80, 40], np.uint8), (108, 192, 1))
    for name, matrix, full in (("a.mp4", 6, False), ("b.mp4", 1, True)):
        coded = Planes.of_rgb(rgb).recoded(matrix, full)
        assert np.abs(coded.rgb().astype(int) - rgb).max() <= 3
        make_movie(tmp_path / name, 40, picture=lambda *_, c=coded: c.frame(), tags={
            "colorspace": matrix, "color_range": 2 if full else 1, "color_primaries": 1, "color_trc": 1})  # fmt: skip
    timeline = otio.schema.Timeline("two", global_start_time=Time(0, 25))
    timeline.tracks.append(track(
        clip("a", "a.mp4", 0, 20), otio.schema.Transition("", "SMPTE_Dissolve", Time(4, 25), Time(4, 25)),
        clip("b", "b.mp4", 5, 20),
    ))  # fmt: skip
    otio.adapters.write_to_file(timeline, str(tmp_path / "edit.otio"))
    doc = edits.add_master(take_lock(tmp_path / "edit.otio").doc, Master("m", "m", 96, 160))
    a, b = doc.shots
    loose = Pane(
        (Keyframe(0, zoom=0.6),), Rect(0, 0, 1, 0.5), Backdrop("media", darken=0.0, media=str(tmp_path / "a.mp4"))
    )
    other = Pane((Keyframe(0),), Rect(0, 0.5, 1, 0.5), shot=a.id)
    doc = edits.set_framings(doc, [Framing(a.id, "m", (Pane((Keyframe(0),)),)), Framing(b.id, "m", (loose, other))])
    made = make_one(doc, doc.masters[0], tmp_path / "out")
    with MovieReader(made.path) as reader:
        for n in (3, 19, 21, 35):
            assert np.abs(reader.frame(n).rgb().astype(int) - rgb[0, 0]).max() <= 6, n


def test_a_start_timecode_goes_on(movie, cache, tmp_path):
    doc = plan(movie, [Master("m", "m", 64, 96)], cache).doc
    made = make_one(doc, doc.masters[0], tmp_path, FrameRange(10, 30))
    assert probe(made.path).start == 90_010


def test_names_are_safe_on_any_disk(planned):
    master = replace(planned.masters[0], name='a/b:c*?"<>|\\d')
    doc = edits.change_master(planned, master)
    rows = [r for r in listed_rows(doc, DELIVERY) if r.master == master.id]
    assert row_names(doc, rows)[0].name == "walk a-bxc-------d.mp4"
    assert row_names(replace(doc, lock=replace(doc.lock, name="../..")), rows)[0].name.startswith("-.. a-b")


@pytest.mark.parametrize(
    ("text", "span"),
    [("10-20", (10, 20)), ("00:00:00:10-00:00:01:00", (10, 25)), ("0-80", (0, 80))],
)
def test_ranges_are_read(planned, text, span):
    found = parse_range(text, planned.lock)
    assert (found.start, found.end) == span


@pytest.mark.parametrize("text", ["", "5", "20-10", "0-81", "a-b", "5-5", "-5-10"])
def test_ranges_that_cannot_be_are_refused(planned, text):
    with pytest.raises(InputError, match="the range"):
        parse_range(text, planned.lock)


def test_stopping_leaves_nothing_half_made_and_it_goes_on(planned, tmp_path):
    token = CancelToken()

    def progress(fraction, _):
        if fraction > 0.3:
            token.cancel()

    with pytest.raises(Cancelled):
        make_one(planned, planned.masters[0], tmp_path, progress=progress, cancel=token)
    assert not any(p.name.startswith("unfinished") or p.suffix == ".part" for p in tmp_path.rglob("*"))
    assert not any(p.is_file() for p in tmp_path.iterdir())
    assert make_one(planned, planned.masters[0], tmp_path).problems == ()
    assert [p.name for p in tmp_path.iterdir()] == ["walk 9x16.mp4"]


def test_the_lock_is_never_written_over(planned, tmp_path):
    lock = planned.lock
    target = tmp_path / "walk 9x16.mp4"
    target.write_bytes(Path(lock.media[0].path).read_bytes())
    doc = replace(planned, lock=replace(lock, media=(replace(lock.media[0], path=str(target)),)))
    before = target.read_bytes()
    with pytest.raises(OutputError, match="never changed"):
        make_one(doc, doc.masters[0], tmp_path)
    assert target.read_bytes() == before


def test_a_lock_that_vanished_or_changed_says_so(planned, movie, tmp_path):
    media = planned.lock.media[0]
    gone, other = tmp_path / "gone.mp4", movie
    for path, family, said in ((gone, MediaError, "not there"), (other, MediaError, "60 frames, not 80")):
        doc = replace(planned, lock=replace(planned.lock, media=(replace(media, path=str(path)),)))
        with pytest.raises(family, match=said):
            make_one(doc, doc.masters[0], tmp_path)
        assert list(tmp_path.iterdir()) == []


def test_a_folder_that_cannot_be_written(planned):
    with pytest.raises(OutputError, match="cannot be written"):
        make_one(planned, planned.masters[0], "/proc/none")


_MAKE = """
import resource, signal, sys
from ezvar.core.errors import EzvarError
from ezvar.core.store import load_project
from tests.making import make_one
doc = load_project(sys.argv[1])
if len(sys.argv) > 3:
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (int(sys.argv[3]),) * 2)
try:
    make_one(doc, doc.masters[0], sys.argv[2], progress=lambda f, m: print(f, flush=True))
except EzvarError as error:
    print(error)
"""


def test_a_full_disk_while_making_leaves_nothing_half_made(planned, tmp_path):
    """Both while pictures are written and at the very end, when the index is put in front; then it goes on."""
    project, out = tmp_path / "p.ezvar", tmp_path / "out"
    save_project(planned, project)
    size = make_one(planned, planned.masters[0], tmp_path / "whole").path.stat().st_size
    for limit in (4_000, size - 3000):
        said = subprocess.run([sys.executable, "-c", _MAKE, project, out, str(limit)], capture_output=True, text=True)
        assert "walk 9x16.mp4: it cannot be written" in said.stdout
        assert not said.stderr.count("Traceback")
        assert not any(p.name.startswith("unfinished") or p.suffix == ".part" for p in out.rglob("*"))
        assert not any(p.is_file() for p in out.iterdir())
    make_one(planned, planned.masters[0], out)
    assert [p.name for p in out.iterdir()] == ["walk 9x16.mp4"]


def test_the_check_finds_what_is_wrong(movie, tmp_path):
    right = Expected(192, 108, Rate(25), 60, 1)
    assert check_facts(movie, right).problems == ()
    for wrong, said in (
        (replace(right, width=190), "192 × 108, not 190 × 108"),
        (replace(right, rate=Rate(24)), "25 frames a second, not 24"),
        (replace(right, frames=61), "60 frames, not 61"),
        (replace(right, frames=90), "lasts 2.400 s, not 3.600 s"),
        (replace(right, sounds=0), "sound that the lock has not"),
    ):
        assert any(said in sentence for sentence in check_facts(movie, wrong).problems)
    quiet = make_movie(tmp_path / "quiet.mp4", 60)
    assert check_facts(quiet, right).problems == ("Its sound is missing.",)
    broken = tmp_path / "broken.mp4"
    broken.write_bytes(os.urandom(5000))
    assert len(check_facts(broken, right).problems) == 1
