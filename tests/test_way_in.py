"""What comes from outside: regular files of a size, JSON within bounds; and mistakes of our own, told in a sentence."""

import json
import os
import signal
import subprocess
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st

import ezvar.core.store
from ezvar.cli import main
from ezvar.core.errors import EzvarError, MediaError, ProjectError, TimelineError
from ezvar.core.lock import take_lock
from ezvar.core.media import fingerprint, read_still
from ezvar.core.store import (
    all_went_well,
    fell_before,
    kept_reports,
    load_project,
    load_sets,
    report_of,
    watch_for_faults,
)
from ezvar.core.way_in import DEEPEST, LARGEST, open_regular, parse_json, read_bytes

READERS = {"project.ezvar": load_project, "sets.json": load_sets, "still.png": read_still, "any.mp4": fingerprint,
           **{f"lock{suffix}": take_lock for suffix in (".edl", ".otio", ".otioz", ".aaf", ".mp4")}}  # fmt: skip


@pytest.mark.parametrize("name", READERS)
@pytest.mark.parametrize("kind", ["pipe", "device", "folder", "loop", "zero byte"])
def test_only_regular_files_are_read_and_nothing_waits(tmp_path, name, kind):
    path = tmp_path / name
    match kind:
        case "pipe":
            os.mkfifo(path)
        case "device":
            path.symlink_to("/dev/zero")
        case "folder":
            path.mkdir()
        case "loop":
            path.symlink_to(path)
        case "zero byte":
            path = tmp_path / f"a\0{name}"
    if (name, kind) == ("sets.json", "zero byte"):
        assert not load_sets(path).sets  # there is no such file
        return
    with pytest.raises(EzvarError) as caught:
        READERS[name](path)
    assert "\n" not in str(caught.value)


def test_files_beyond_their_size_are_refused_unread(tmp_path, monkeypatch):
    large = tmp_path / "large.ezvar"
    with large.open("wb") as file:
        file.truncate(600 * 1024**2)
    with pytest.raises(ProjectError, match="far too large for a project"):
        load_project(large)
    (tmp_path / "a").write_bytes(b"12345")
    monkeypatch.setitem(LARGEST, "a list", 5)
    assert read_bytes(tmp_path / "a", MediaError, "a list") == b"12345"
    monkeypatch.setitem(LARGEST, "a list", 4)
    with pytest.raises(TimelineError, match="far too large for a list"):
        open_regular(tmp_path / "a", TimelineError, "a list")


plain = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**63), 2**63 - 1) | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(st.characters(exclude_categories=["Cs"])),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text("abc", max_size=3), inner, max_size=4),
)  # fmt: skip


@given(plain)
def test_json_within_bounds_is_read_as_it_is(values):
    assert parse_json(json.dumps(values).encode()) == values


@pytest.mark.parametrize(
    "text",
    ["[1e400]", '{"a": -1E+999}', f"[{2**63}]", f'{{"a":[{-(2**63) - 1}]}}', "[" * (DEEPEST + 1) + "]" * (DEEPEST + 1),
     "[1" + "0" * 5000 + "]", "[nothing]", "", "\u00e9".encode("latin-1").decode("latin-1")[:0] + "[1,"],
)  # fmt: skip
def test_json_out_of_bounds_is_refused(text):
    with pytest.raises(ValueError, match=r"."):
        parse_json(text.encode())


def test_a_mistake_of_the_program_is_one_sentence_and_a_report(capsys, monkeypatch, tmp_path):
    def wrong(_):
        raise RuntimeError("of a kind that\nnobody foresaw")

    monkeypatch.setattr(ezvar.core.store, "load_project", wrong)
    monkeypatch.setenv("EZVAR_CACHE", str(tmp_path / "cache"))
    assert main(["check", "p.ezvar"]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert said.err.startswith(
        "ezvar: Ezvar made a mistake (RuntimeError: of a kind that nobody foresaw). Your work is"
    )
    assert said.err.count("\n") == 1
    (report,) = (tmp_path / "cache" / "reports").iterdir()
    assert str(report) in said.err
    assert "in wrong" in report.read_text()
    for _ in range(25):
        assert report_of(RuntimeError("again"), tmp_path / "many") is not None
    assert len(list((tmp_path / "many").iterdir())) == 20
    assert report_of(RuntimeError("x"), tmp_path / "many" / next((tmp_path / "many").iterdir()).name) is None


def test_a_fault_that_ends_the_program_is_found_at_the_next_start(tmp_path):
    said = f"""
import os, pathlib
from ezvar.core.store import watch_for_faults
watched = watch_for_faults(pathlib.Path({str(tmp_path)!r}))
os.abort()
"""
    assert subprocess.run([sys.executable, "-c", said], check=False).returncode == -signal.SIGABRT
    report = fell_before(tmp_path)
    assert "Aborted" in report.read_text()
    assert fell_before(tmp_path) is None
    (kept,) = kept_reports(tmp_path)
    assert kept.what == "a fault that ended the program"
    watched = watch_for_faults(tmp_path)
    assert fell_before(tmp_path) is None  # this one is still there
    all_went_well(watched)
    assert [f.name for f in tmp_path.iterdir()] == [report.name]
