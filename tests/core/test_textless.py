"""Writing in the picture: found, titled anew, and left out by a textless version of the lock."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ezvar.core import compose, edits
from ezvar.core.errors import MediaError
from ezvar.core.evidence import kept_analysis
from ezvar.core.framing import framed, pane_window, picture_size, subjects_in
from ezvar.core.lock import LockReader
from ezvar.core.media import fingerprint
from ezvar.core.model import Textless
from ezvar.core.planning import with_framings
from ezvar.core.store import default_cache, load_project, save_project
from ezvar.core.text import CaptionChecks, raise_clear, textless_version, titled_anew, writing_in
from ezvar.demo import DEMO_PROJECT, DEMO_SEEN

from ..media import make_movie, scenes


@pytest.fixture(scope="module")
def demo():
    return replace(load_project(DEMO_PROJECT), tracks=(), styles=(), differing=())


@pytest.fixture(scope="module")
def seen(demo):
    return kept_analysis(demo, default_cache(DEMO_SEEN))


def test_the_demos_lower_third_is_titled_anew_and_its_shot_framed_without_it(demo, seen):
    shot = demo.shots[2]
    (writing, *_) = writing_in(demo, shot, seen, 16 / 9)
    assert writing.box.x < 0.2 < writing.box.width + writing.box.x
    assert shot.start <= writing.start < writing.end <= shot.end
    title = titled_anew(writing, demo.lock.frames)
    assert (title.kind, title.design.across, title.design.down) == ("lower third", "left", "foot")
    assert (title.start, title.end) == (writing.start, writing.end)
    assert [p.name for p in CaptionChecks().of_title(demo, title)][:1] == ["not written"]
    doc = edits.use_textless(edits.put_title(demo, title), [shot.id])
    assert all(s.kind != "text" for s in subjects_in(doc, shot, seen))
    assert doc.framing(shot.id, demo.masters[0].id) is None
    solved = with_framings(doc, seen, [demo.masters[0]], [shot]).framing(shot.id, demo.masters[0].id)
    assert "text cut" in {r.name for r in demo.framing(shot.id, demo.masters[0].id).reasons}
    assert "text cut" not in {r.name for r in solved.reasons}
    plain = edits.put_title(doc, replace(title, cover=None))
    assert "over writing" in {p.name for p in CaptionChecks().all(plain, seen)}  # it is still in the picture
    assert "over writing" not in {p.name for p in CaptionChecks().all(doc, seen)}  # a bar covers it
    doc = plain
    linked = edits.link_textless(doc, Textless("/nowhere.mp4", "x", demo.lock.frames))
    assert "over writing" not in {p.name for p in CaptionChecks().all(linked, seen)}
    back = edits.use_textless(doc, [shot.id], use=False)
    assert any(s.kind == "text" for s in subjects_in(back, shot, seen))


def test_one_action_a_master_clears_the_demos_captions_of_all_that_they_hide_or_that_hides_them(seen):
    doc, checks = load_project(DEMO_PROJECT), CaptionChecks()
    colliding = {"over writing", "over a face", "over a title", "over captions", "behind controls"}
    before = {p.name for p in checks.all(doc, seen)}
    assert before & colliding
    for master in doc.masters:
        doc, _ = raise_clear(doc, doc.tracks[0].id, master, checks, seen)
    after = {p.name for p in checks.all(doc, seen)}
    assert after == before - colliding
    assert "outside the safe area" not in after


def test_shots_show_the_textless_version_where_it_is_to_be_used(planned, tmp_path):
    """Another movie of the same length, all of its pictures darker."""
    other = make_movie(tmp_path / "textless.mp4", 80, size=(640, 360), picture=lambda n, *a: scenes(n, *a) // 2)
    textless, compared = textless_version(planned, other)
    assert compared.shots == ()
    doc = edits.use_textless(edits.link_textless(planned, textless), [planned.shots[1].id])
    first, second = planned.shots[0].start + 5, planned.shots[1].start + 5
    with LockReader(planned) as before, LockReader(doc) as after:
        assert before.name != after.name
        own, without = (r.frame(second).planes() for r in (before, after))
        assert (without.width, without.height) == (own.width, own.height)
        assert without.y.mean() < 0.8 * own.y.mean()
        assert (after.frame(first).planes().y == before.frame(first).planes().y).all()
    gone = replace(doc, textless=replace(textless, path=str(tmp_path / "gone.mp4")))
    told = []
    with LockReader(gone, lambda media, error: told.append(error)) as reader:
        assert np.abs(reader.frame(second).planes().y.astype(int) - own.y).max() == 0
    assert len(told) == 1
    parted = edits.add_cut(doc, planned.shots[1].start + 10)
    assert [parted.is_textless(s.id) for s in parted.shots[:4]] == [False, True, True, False]
    save_project(doc, tmp_path / "p.ezvar")
    assert load_project(tmp_path / "p.ezvar").textless == textless
    short = make_movie(tmp_path / "short.mp4", 70, size=(320, 180))
    with pytest.raises(MediaError, match="70 frames"):
        textless_version(planned, short)
    with pytest.raises(ValueError, match="70 frames"):
        edits.link_textless(planned, Textless(str(short), fingerprint(short), 70))


def test_a_bar_in_the_pictures_colours_covers_what_is_titled_anew(demo, seen):
    shot, master = demo.shots[2], demo.masters[2]
    (writing, *_) = writing_in(demo, shot, seen, 16 / 9)
    title = titled_anew(writing, demo.lock.frames)
    hidden = edits.place_items(edits.put_title(demo, title), [title.id], [master.id], lambda p: replace(p, hidden=True))
    with LockReader(demo) as reader, compose.LockPictures(reader) as pictures:
        before, after = (compose.frame(d, master, 250, pictures, 0.5).y.astype(int) for d in (demo, hidden))
    changed = np.abs(before - after)
    rows, columns = np.nonzero(changed > 6)
    box = framed(demo, shot, master)
    window = pane_window(box.panes[0], master, picture_size(demo, shot), 250 - shot.start)
    left = (title.cover.x * 1920 - window.left) / window.width * before.shape[1]
    assert columns.min() >= max(0, left) - 3
    assert rows.min() >= (title.cover.y * 1080 - window.top) / window.height * before.shape[0] - 3
    bar = after[rows.min() + 4 : rows.max() - 4, columns.min() + 4 : columns.max() - 4]
    assert bar.std() < 0.3 * before[rows.min() : rows.max(), columns.min() : columns.max()].std()
