"""Damaged and hostile files of all kinds, through the command line: sentences, never a traceback; documents that are
let in can be shown, planned, handed out and made."""

from dataclasses import replace

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from benchmarks.fuzz.cases import Ended, case_of
from benchmarks.fuzz.kinds import KINDS
from benchmarks.fuzz.seeds import FRAMES, make_seeds
from ezvar.cli import main
from ezvar.core.compose import LockPictures, frame
from ezvar.core.framing import doubted
from ezvar.core.lock import LockReader
from ezvar.core.problems import problems
from ezvar.core.review import window_rows, write_handoff
from ezvar.core.store import load_project, save_project
from ezvar.core.timing import FrameRange

from .making import make_one
from .strategies import framings, masters

CASES = 150


@pytest.fixture(scope="module")
def seeds(tmp_path_factory):
    folder = tmp_path_factory.mktemp("good")
    make_seeds(folder)
    return folder


@pytest.mark.parametrize("part", range(6))
def test_damaged_files_are_told_in_a_sentence_and_cost_nothing_that_was_good(part, seeds, tmp_path, monkeypatch, capfd):
    for seed in range(7_000_000 + part, 7_000_000 + CASES, 6):
        case, folder = case_of(seed, seeds), tmp_path / str(seed)
        case.put(seeds, folder)
        monkeypatch.setenv("EZVAR_CONFIG", str(folder))
        monkeypatch.chdir(folder)
        for command in case.kind.commands:
            try:
                status = main(case.words(command))
            except SystemExit as ended:
                status = ended.code
            wrong = Ended(status, 0.0, capfd.readouterr().err).wrong()
            assert not wrong, f"seed {seed}, {case.kind.name}, {case.how}: {wrong}"
        if case.local:
            assert case.kind.good(folder) >= case.kind.whole - 1, f"seed {seed}"


def test_each_kind_is_taken_where_it_is_whole(seeds, tmp_path, monkeypatch):
    assert {case_of(seed, seeds).kind for seed in range(len(KINDS))} == set(KINDS)
    for kind in KINDS:
        folder = tmp_path / kind.name
        case = replace(case_of(0, seeds), kind=kind, data=(seeds / kind.file).read_bytes())
        case.put(seeds, folder)
        monkeypatch.setenv("EZVAR_CONFIG", str(folder))
        monkeypatch.chdir(folder)
        assert all(main(case.words(command)) in (0, 1) for command in kind.commands), kind


@settings(max_examples=20, phases=(Phase.explicit, Phase.generate))  # each is long enough
@given(st.data())
def test_whatever_document_is_valid_can_be_kept_listed_handed_out_drawn_and_made(seeds, tmp_path_factory, data):
    folder, plain = tmp_path_factory.mktemp("valid"), load_project(seeds / "plain.ezvar")
    side = st.integers(8, 60).map(lambda n: 2 * n)
    chosen = tuple(
        replace(data.draw(masters(f"m{k}", FRAMES)), width=data.draw(side), height=data.draw(side), name=f"m{k}")
        for k in range(2)
    )
    decided = tuple(data.draw(framings(s.id, m.id)) for s in plain.shots for m in chosen if data.draw(st.booleans()))
    doc = replace(plain, masters=chosen, framings=decided)
    save_project(doc, folder / "p.ezvar")
    assert load_project(folder / "p.ezvar") == doc
    assert sum(1 for master in chosen for _ in window_rows(doc, master)) >= len(chosen)
    assert all(0 <= each.doubt <= 100 for each in doubted(doc))
    assert all(said.strip() for said in problems(doc))
    write_handoff(doc, folder / "out")
    with LockPictures(LockReader(doc)) as pictures:
        for master in chosen:
            for at in (0, 23, 24, FRAMES - 1):
                drawn = frame(doc, master, at, pictures)
                assert (drawn.width, drawn.height) == (master.width, master.height)
    assert make_one(doc, chosen[0], folder, FrameRange(20, 28)).path.exists()
