"""What an attack on the program once brought about, each: told in a sentence now; what was good beside it stands."""

import json
import os
import random
import shutil
import zipfile
from pathlib import Path

import av
import numpy as np
import pytest

from benchmarks.fuzz.seeds import make_seeds
from ezvar.cli import main
from ezvar.core.errors import MediaError
from ezvar.core.media import probe
from ezvar.core.store import load_project

WORDS = ("--master", "9:16=72x128", "-o", "new.ezvar")
EVENT = "001  A001     V     C        {} {} 01:00:00:00 {}\n* FROM CLIP NAME: {}\n"
GOOD = EVENT.format("00:00:00:02", "00:00:00:12", "01:00:00:10", "a.mp4")


@pytest.fixture(scope="module")
def seeds(tmp_path_factory):
    folder = tmp_path_factory.mktemp("good")
    make_seeds(folder)
    return folder


@pytest.fixture
def said(seeds, tmp_path, monkeypatch, capfd):
    """Runs a command among good files: its status, and the lines that it says of what is wrong."""
    folder = tmp_path / "case"
    shutil.copytree(seeds, folder)
    monkeypatch.chdir(folder)

    def run(*words):
        capfd.readouterr()
        status = main(list(words))
        told = capfd.readouterr()
        return status, (told.err if status == 2 else told.out).strip().splitlines()

    return run


def put(path, value):
    """Changes the document of the project at the end of a path."""
    whole = json.loads(Path("plain.ezvar").read_text())
    at = whole["document"]
    for step in path[:-1]:
        at = at[step]
    at[path[-1]] = value(at[path[-1]]) if callable(value) else value
    Path("p.ezvar").write_text(json.dumps(whole))


KEY = ("framings", 0, "panes", 0, "keys", 0)
MEDIA = ("lock", "media", 0)
SOUND = {"media": "m1", "start": 0, "end": 10, "source": "0", "speed": "1", "track": 1, "carried": ""}
REFUSED = {
    "a lock of a billion frames": (("lock", "frames"), 10**9),
    "a number past 64 bits": (("lock", "frames"), 2**70),
    "drop-frame at 25": (("lock", "drop"), True),
    "a start below zero": (("lock", "start"), -5),
    "no shots": (("shots",), []),
    "no media": (("lock", "media"), []),
    "a zoom of 10^300": ((*KEY, "zoom"), 1e300),
    "a trim of a hair": (("framings", 0, "panes", 0, "trim", "width"), 1e-12),
    "a placement of nothing": (("shots", 0, "source", "media"), "none"),
    "a placement beyond bounds": (("shots", 0, "placement", "scale"), 1e300),
    "a sound of nothing": (("lock", "sound"), [{**SOUND, "media": "none"}]),
    "100,000 panes": (("framings", 0, "panes"), lambda panes: panes * 100_000),
    "a zero byte in a path": ((*MEDIA, "path"), "a\0.mp4"),
}


@pytest.mark.parametrize("what", REFUSED)
def test_projects_that_cannot_be_are_refused(said, what):
    put(*REFUSED[what])
    status, lines = said("check", "p.ezvar")
    assert (status, len(lines)) == (2, 1)
    assert lines[0].startswith("ezvar: p.ezvar: ")


def test_projects_whose_media_cannot_be_found_say_so_and_stand(said):
    os.symlink("loop.mp4", "loop.mp4")
    for path in ("a" * 5000 + ".mp4", "loop.mp4"):
        put((*MEDIA, "path"), path)
        status, lines = said("check", "p.ezvar")
        assert status == 1
        assert any(path[:40] in line for line in lines)


def test_as_many_sounds_as_anybody_writes_are_made(said):
    put(("lock", "sound"), [SOUND] * 50_000)
    assert said("make", "p.ezvar", "--master", "9:16", "-o", "made")[0] == 0


@pytest.mark.parametrize("line", ["001" + " " * 100_000 + "A", "001 " + "w" * 100_000])
def test_long_lines_of_edit_lists_cost_only_themselves(said, line):
    Path("x.edl").write_text(f"TITLE: A\n{line}\n{GOOD}")
    status, lines = said("plan", "x.edl", "--rate", "25", *WORDS)
    assert status == 1
    assert "cannot be read" in lines[0]
    assert load_project("new.ezvar").lock.frames == 10


def test_what_is_missing_or_makes_no_sense_is_not_waited_for(said):
    Path("x.edl").write_text("TITLE: A\n" + EVENT.format("00:00:00:00", "00:10:00:00", "01:10:00:00", "gone.mp4"))
    assert said("plan", "x.edl", "--rate", "25", *WORDS)[0] == 1
    assert load_project("new.ezvar").lock.frames == 15_000
    status, lines = said("plan", "cut.edl", "--rate", "1e99999999", *WORDS)
    assert (status, len(lines)) == (2, 1)


def _each(value, schema, change):
    if isinstance(value, dict):
        if str(value.get("OTIO_SCHEMA", "")).startswith(schema):
            change(value)
        for inner in value.values():
            _each(inner, schema, change)
    elif isinstance(value, list):
        for inner in value:
            _each(inner, schema, change)


LONG = {"OTIO_SCHEMA": "RationalTime.1", "rate": 25, "value": 1e9}
TIMELINES = {
    "a rate of 0": ("RationalTime", lambda v: v.update(rate=0)),
    "a rate that is no number": ("RationalTime", lambda v: v.update(rate=float("nan"))),
    "a rate of 10^-9": ("RationalTime", lambda v: v.update(rate=1e-9)),
    "starts without end": ("RationalTime", lambda v: v.update(value=float("inf"))),
    "a billion frames": ("TimeRange", lambda v: v.update(duration=LONG)),
    "a time warp of another version": ("LinearTimeWarp", lambda v: v.update(OTIO_SCHEMA="LinearTimeWarp.9")),
    "tracks without clips": ("Track", lambda v: v.pop("children")),
    "clips without media": ("Clip", lambda v: v.pop("media_references")),
    "bounds without end": ("ExternalReference", lambda v: v.update(available_image_bounds={
        "OTIO_SCHEMA": "Box2d.1", "min": {"OTIO_SCHEMA": "V2d.1", "x": float("-inf"), "y": 0.0},
        "max": {"OTIO_SCHEMA": "V2d.1", "x": float("inf"), "y": 1.0}})),
}  # fmt: skip


@pytest.mark.parametrize("what", TIMELINES)
def test_timelines_whose_parts_make_no_sense_are_told(said, what):
    timeline = json.loads(Path("cut.otio").read_text())
    _each(timeline, *TIMELINES[what])
    Path("x.otio").write_text(json.dumps(timeline))
    status, lines = said("plan", "x.otio", *WORDS)
    assert status in (0, 1, 2)
    assert status < 2 or (len(lines) == 1 and lines[0].startswith("ezvar: x.otio: "))
    assert Path("new.ezvar").exists() == (status < 2)


def test_an_archive_whose_data_are_damaged_is_told(said):
    with zipfile.ZipFile("cut.otioz") as whole, zipfile.ZipFile("x.otioz", "w", zipfile.ZIP_DEFLATED) as packed:
        for member in whole.infolist():
            packed.writestr(member.filename, whole.read(member))
    data = bytearray(Path("x.otioz").read_bytes())
    for at in range(len(data) // 3, len(data) // 2, 7):
        data[at] ^= 255
    Path("x.otioz").write_bytes(data)
    status, (line,) = said("plan", "x.otioz", *WORDS)
    assert (status, "not a bundle that can be read" in line) == (2, True)


def test_names_that_are_too_long_for_the_disk_or_no_text_are_made_all_the_same(said):
    put(("masters", 0, "name"), "n" * 3000)
    status, lines = said("make", "p.ezvar", "--master", "n" * 3000, "-o", "made")
    assert (status, sum("too long for the disk" in line for line in lines)) == (1, 1)
    shutil.copy("a.mp4", os.fsdecode(b"caf\xe9.mp4"))
    assert said("plan", os.fsdecode(b"caf\xe9.mp4"), *WORDS)[0] == 0
    assert said("make", "new.ezvar", "-o", "made")[0] == 0
    assert len(list(Path("made").glob("*.mp4"))) == 2


def test_fragments_whose_heads_are_damaged_are_never_counted_for_more_than_there_are(tmp_path):
    path = tmp_path / "pieces.mp4"
    with av.open(str(path), "w", options={"movflags": "frag_keyframe+empty_moov"}) as out:
        stream = out.add_stream("libx264", rate=25, options={"g": "12"})
        stream.width, stream.height, stream.pix_fmt = 160, 96, "yuv420p"
        for n in range(60):
            frame = av.VideoFrame.from_ndarray(np.full((96, 160, 3), n * 4, np.uint8))
            frame.pts = n
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    whole, rng, read = path.read_bytes(), random.Random(5), 0
    heads = [at for at in range(len(whole)) if whole[at : at + 4] in (b"moof", b"moov", b"trun", b"tfhd", b"tfdt")]
    for _ in range(60):
        data = bytearray(whole)
        data[rng.choice(heads) + rng.randrange(40)] ^= 1 << rng.randrange(8)
        path.write_bytes(data)
        try:
            facts = probe(path)
        except MediaError:
            continue
        read += 1
        evenly = np.array_equal(facts.index.picture, np.arange(len(facts.index.pts)))
        assert facts.frames <= (60 if evenly else 24 * 3600 * facts.rate.fraction)
    assert read > 30
