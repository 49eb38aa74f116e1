"""Cuts against ground truth, on edits that were not looked at while building."""

from itertools import pairwise

import numpy as np
import pytest

from benchmarks.edits import make_edit, texture
from ezvar.core.cuts import Signals, find_cuts, judge, measure
from ezvar.core.cuts.signals import SMALL, difference
from ezvar.core.media import MovieReader
from ezvar.core.progress import Cancelled, CancelToken


@pytest.mark.parametrize("seed", range(200, 210))
def test_hard_cuts_of_generated_edits(tmp_path, seed):
    edit = make_edit(tmp_path / "edit.mp4", seed)
    with MovieReader(edit.path) as reader:
        cuts = find_cuts(reader)
    assert tuple(c.start for c in cuts) == edit.cuts
    for cut in cuts:
        assert cut.kind == "cut"
        assert cut.start == cut.end
        assert 0 < cut.strength <= 1
        assert 0 <= cut.doubt <= 100


def _signals(pictures):
    colour = np.full((len(pictures), 2, 9, 16), 128, np.uint8)
    luma = np.stack(pictures)
    change = [0.0] + [difference(a, b, colour[0], colour[0]) for a, b in pairwise(pictures)]
    return Signals(luma, colour, np.array(change, np.float32))


def _place(seed, shift=0):
    wide = texture(np.random.default_rng(seed), SMALL[0] * 2, SMALL[1])[..., 1]
    return wide[:, 10 + shift : 10 + shift + SMALL[0]]


@pytest.mark.parametrize("length", [1, 2, 3])
def test_a_flash_is_no_cut(length):
    shot = [_place(1)] * 20
    flash = [np.clip(p.astype(int) // 4 + 190, 0, 255).astype(np.uint8) for p in shot[:length]]
    assert judge(_signals(shot + flash + shot)) == []


def test_another_place_between_is_two_cuts():
    cuts = judge(_signals([_place(1)] * 20 + [_place(2)] * 4 + [_place(7)] * 20))
    assert [c.start for c in cuts] == [20, 24]


def test_a_pan_is_no_cut_and_a_cut_inside_a_pan_is():
    pan = [_place(4, k) for k in range(30)]
    assert judge(_signals(pan)) == []
    assert [c.start for c in judge(_signals(pan[:15] + [_place(5, k) for k in range(15)]))] == [15]


def test_a_still_and_a_single_frame_have_no_cuts():
    assert judge(_signals([_place(1)] * 30)) == []
    assert judge(_signals([_place(1)])) == []


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
