"""Cuts against ground truth, on edits that were not looked at while building."""

from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import pytest

from benchmarks.cut_scenes import make
from benchmarks.edits import make_edit, texture
from ezvar.core import edits
from ezvar.core.cuts import Meter, find_cuts, judge, measure, network
from ezvar.core.cuts.network import judged_frames
from ezvar.core.edits import drop, keep
from ezvar.core.media import MovieReader, Planes
from ezvar.core.media.picture import Picture
from ezvar.core.model import Cut, Document, Lock, Media, Shot, Source, cut_places
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.timing import Rate

SIZE = (160, 90)


@pytest.mark.parametrize("seed", range(200, 204))
def test_hard_cuts_of_generated_edits(tmp_path, seed):
    edit = make_edit(tmp_path / "edit.mp4", seed)
    with MovieReader(edit.path) as reader:
        cuts = find_cuts(reader)
    assert tuple(c.start for c in cuts) == edit.cuts
    for cut in cuts:
        assert (cut.kind, cut.start) == ("cut", cut.end)
        assert 0 < cut.strength <= 1
        assert 0 <= cut.doubt <= 100


@pytest.fixture(scope="module")
def hard(tmp_path_factory):
    """Edits with every difficulty at once, and what is measured of them."""
    found = []
    for seed in (2001, 2002):
        truth = make(tmp_path_factory.mktemp("hard") / f"{seed}.mp4", seed)
        with MovieReader(truth.path) as reader:
            found.append((truth, measure(reader.frames(), reader.facts.frames)))
    return found


def test_mistakes_on_a_hard_edit_are_few_and_doubted(hard):
    """What is wrong must lie among what the editor is asked about."""
    right = wrong = owned = 0
    for truth, signals in hard:
        judged = judge(signals)
        true = {c.start for c in truth.cuts if c.kind == "cut"}
        found = {c.start for c in judged.cuts if c.kind == "cut"}
        asked = {c.start for c in (*judged.cuts, *judged.passed) if c.doubt >= 30}
        bad = found ^ true
        right, wrong, owned = right + len(true), wrong + len(bad), owned + len(bad & asked)
        assert all(c.why for c in (*judged.cuts, *judged.passed) if c.doubt >= 30)
    assert wrong <= 0.1 * right
    assert owned >= wrong - 1


def _pictures(luma):
    for k, y in enumerate(luma):
        y = cv2.resize(y, SIZE, interpolation=cv2.INTER_LINEAR)
        yield Picture(k, Planes.of_rgb(np.repeat(y[..., None], 3, axis=2)), *SIZE)


def _judged(pictures, **options):
    return judge(measure(_pictures(pictures), len(pictures)), **options)


def _place(seed, shift=0):
    wide = texture(np.random.default_rng(seed), SIZE[0] * 2, SIZE[1])[..., 1]
    return np.ascontiguousarray(wide[:, 10 + shift : 10 + shift + SIZE[0]])


def _mixed(a, b, share):
    return cv2.addWeighted(a, 1 - share, b, share, 0)


@pytest.mark.parametrize("length", [1, 2, 3])
def test_a_flash_is_no_cut(length):
    shot = [_place(1)] * 30
    flash = [np.clip(p.astype(int) // 4 + 190, 0, 255).astype(np.uint8) for p in shot[:length]]
    assert _judged(shot + flash + shot).cuts == ()


def test_another_place_between_is_two_cuts():
    cuts = _judged([_place(1)] * 20 + [_place(2)] * 4 + [_place(7)] * 20).cuts
    assert [c.start for c in cuts] == [20, 24]


def test_a_pan_is_no_cut_and_a_cut_inside_a_pan_is():
    pan = [_place(4, 2 * k) for k in range(40)]
    assert _judged(pan).cuts == ()
    assert [c.start for c in _judged(pan[:20] + [_place(5, 2 * k) for k in range(20)]).cuts] == [20]


def test_a_dissolve_and_a_fade_have_their_spans():
    a, b = _place(1), _place(2)
    black = np.zeros_like(a)
    dissolve = [_mixed(a, b, (k + 1) / 17) for k in range(16)]
    fade = [_mixed(a, black, (k + 1) / 9) for k in range(8)] + [_mixed(black, b, (k + 1) / 9) for k in range(8)]
    for mix, kind in ((dissolve, "dissolve"), (fade, "fade")):
        (cut,) = _judged([a] * 40 + mix + [b] * 40).cuts
        overlap = (min(cut.end, 56) - max(cut.start, 40)) / (max(cut.end, 56) - min(cut.start, 40))
        assert (cut.kind, overlap >= 0.6) == (kind, True)


def test_a_wipe_has_its_span_whichever_way_it_goes():
    a, b = _place(1), _place(2)
    for turn in (0, 1):
        wipe = []
        for k in range(16):
            edge, picture = round((k + 1) / 17 * a.shape[1 - turn]), a.copy()
            part = np.s_[:, :edge] if not turn else np.s_[:edge]
            picture[part] = b[part]
            wipe.append(picture)
        (cut,) = _judged([a] * 40 + wipe + [b] * 40).cuts
        overlap = (min(cut.end, 56) - max(cut.start, 40)) / (max(cut.end, 56) - min(cut.start, 40))
        assert (cut.kind, overlap >= 0.6) == ("wipe", True)


def _passing(shot):
    """Something dark that crosses the whole height within twelve frames."""
    for k, picture in enumerate(shot[14:26]):
        left = round(-60 + (SIZE[0] + 60) * (k + 1) / 13)
        picture[:, max(0, left) : max(0, left + 60)] = 30


def _burst(shot):
    """Light that spreads over a third of the picture and fades."""
    away = np.hypot(*(np.mgrid[0 : SIZE[1], 0 : SIZE[0]] - np.array([20, 110])[:, None, None]))
    for k, picture in enumerate(shot[15:30]):
        light = 200 * np.clip(1.5 - away / (12 + 3 * k), 0, 1) * (1 - k / 15)
        picture[:] = np.clip(picture + light, 0, 255)


def _title(shot):
    for picture in shot[20:]:
        cv2.putText(picture, "A LANTERN EVENING", (4, 60), cv2.FONT_HERSHEY_SIMPLEX, 0.5, 240, 2)


def _repeated(shot):
    for picture in shot[15:21]:
        picture[:] = shot[14]


def _black(shot):
    for picture in shot[20:22]:
        picture[:] = 16


@pytest.mark.parametrize("trap", [_passing, _burst, _title, _repeated, _black])
def test_what_is_no_cut_is_taken_for_none(trap):
    shot = [_place(4, k // 2) for k in range(60)]
    trap(shot)
    assert _judged(shot).cuts == ()


def test_neither_light_nor_side_nor_parts_change_what_is_found(hard, monkeypatch):
    _, signals = hard[1]
    said = judged_frames(signals)
    monkeypatch.setattr(network, "_AT_ONCE", 170)
    assert np.allclose(judged_frames(signals), said, atol=1e-3)
    found = {c.start for c in judge(signals).cuts if c.doubt < 30}
    mirrored = replace(signals, thumbs=signals.thumbs[:, :, ::-1], colour=signals.colour[..., ::-1])
    darker = replace(signals, thumbs=(signals.thumbs * 0.7).astype(np.uint8))
    for other in (mirrored, darker):
        assert len(found ^ {c.start for c in judge(other).cuts if c.start in found or c.doubt < 30}) <= 1


def test_stills_single_frames_and_exposure_have_no_cuts():
    still = _place(1)
    assert _judged([still] * 30).cuts == ()
    assert _judged([still]).cuts == ()
    brighter = [np.clip(still * (1 + k / 40), 0, 255).astype(np.uint8) for k in range(40)]
    assert _judged([still] * 30 + brighter + [brighter[-1]] * 30).cuts == ()


def test_more_sensitive_means_never_fewer_cuts(hard):
    _, signals = hard[0]
    counts = [len(judge(signals, s).cuts) for s in (-1.0, -0.5, 0.0, 0.5, 1.0)]
    assert counts == sorted(counts)
    whole = judge(signals).cuts
    inside = judge(signals, start=300, end=600).cuts
    assert {c.start for c in inside} == {c.start for c in whole if 300 <= c.start < 600}


def test_measuring_can_stop_anywhere_and_be_judged():
    meter = Meter(100)
    for picture in _pictures([_place(1)] * 20 + [_place(2)] * 5):
        meter.add(picture)
    assert [c.start for c in judge(meter.result()).cuts] == [20]
    assert len(meter.result().change) == 25


def test_measuring_reports_and_can_be_stopped(edit):
    token, told = CancelToken(), []

    def progress(fraction, message):
        told.append((fraction, message))
        if fraction > 0.3:
            token.cancel()

    with MovieReader(edit) as reader, pytest.raises(Cancelled):
        measure(reader.frames(), reader.facts.frames, progress, token)
    assert told[0] == (0.0, "Looking for cuts")
    assert len(told) >= 2


def _document():
    media = Media("m", "/a.mov", 100, 50, Rate(25), 100, content="c")
    shots = (
        Shot("a", 0, 40, Source("m", Fraction(0))),
        Shot("b", 40, 100, Source("m", Fraction(40)), cut=Cut("cut", 40, 40, 0.6, 50)),
    )
    return Document(Lock("l", Rate(25), 100, 100, 50, media=(media,)), shots, passed=(Cut("cut", 70, 70, 0.3, 60),))


def test_places_are_kept_and_dropped():
    doc = _document()
    first, second = cut_places(doc)
    assert (first.frame, first.waits, second.frame, second.shot) == (40, True, 70, None)
    taken = keep(doc, second)
    assert [s.start for s in taken.shots] == [0, 40, 70]
    assert (taken.passed, taken.shots[2].cut.settled) == ((), True)
    assert not cut_places(keep(doc, first))[0].waits
    assert drop(doc, second).passed == ()
    assert [s.start for s in drop(doc, first).shots] == [0]


def test_finding_anew_leaves_what_is_settled():
    doc = keep(_document(), cut_places(_document())[0])
    new = edits.find_anew(doc, [Cut("cut", 20, 20), Cut("dissolve", 80, 90)], [Cut("cut", 60, 60, doubt=40)], 0, 100)
    assert [(s.start, s.cut.kind if s.cut else None) for s in new.shots] == [
        (0, None), (20, "cut"), (40, "cut"), (85, "dissolve"),
    ]  # fmt: skip
    assert [c.frame for c in new.passed] == [60]
    part = edits.find_anew(new, [], [], 50, 100)
    assert [(p.frame, p.shot, p.waits) for p in cut_places(part)] == [
        (20, part.shots[1].id, False), (40, part.shots[2].id, False)
    ]  # fmt: skip
