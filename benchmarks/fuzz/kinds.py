"""The kinds of files that come in, how each is damaged, and what is done with it then."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ezvar.core.store import load_project

from . import mutations as m
from .seeds import CAPTIONS, CLIPS, EVENTS, RETURNED

_PLAN = ("plan", "{file}", "--master", "9:16=72x128", "-o", "out.ezvar")
_CHECK = ("check", "{file}")
_TAKE = ("take", "plain.ezvar", "{file}")
_MAKE = ("make", "whole.ezvar", "-o", "made", "--range", "0-6")


@dataclass(frozen=True)
class Kind:
    """``file`` of the seeds is damaged by one of the ``mutations``, and the commands are run, each with ``{file}`` for
    it. ``good`` counts what came of the file, which has ``whole`` good parts; ``local`` damages one of them alone."""

    name: str
    file: str
    mutations: tuple[m.Mutation, ...]
    commands: tuple[tuple[str, ...], ...]
    local: m.Mutation | None = None
    good: Callable[[Path], int] | None = None
    whole: int = 0


def _captions(folder: Path) -> int:
    return sum(len(track.captions) for track in load_project(folder / "plain.ezvar").tracks)


def _agreed(folder: Path) -> int:
    return sum(framing.verdict == "agreed" for framing in load_project(folder / "plain.ezvar").framings)


def _one_cue(data: bytes, rng: random.Random) -> bytes:
    """One caption's times or number spoilt."""
    parts = data.split(b"\n\n")
    at = rng.randrange(CAPTIONS)
    lines = parts[at].split(b"\n")
    lines[rng.randrange(2)] = rng.choice((b"", b"-1", b"00:00:99", b"x" * 5000, b"00:00:01,000 --> ", b"\xff\xfe"))
    parts[at] = b"\n".join(lines)
    return b"\n\n".join(parts)


def _one_vtt(data: bytes, rng: random.Random) -> bytes:
    head, _, rest = data.partition(b"\n\n")
    return head + b"\n\n" + _one_cue(rest, rng)


def _one_row(data: bytes, rng: random.Random) -> bytes:
    """Every row of a table agreed to, and one of them spoilt."""
    rows = data.replace(b",open,", b",agreed,").split(b"\n")
    at = rng.randrange(1, RETURNED + 1)
    words = rows[at].split(b",")
    words[rng.randrange(len(words))] = rng.choice((b"-1", b"nan", b"x" * 3000, b"=1+1", b"1e999"))
    rows[at] = b",".join(words)
    return b"\n".join(rows)


def _one_line(data: bytes, rng: random.Random) -> bytes:
    """One event of an edit list spoilt."""
    lines = data.split(b"\n")
    at = rng.choice([k for k, line in enumerate(lines) if line[:3].isdigit()])
    words = lines[at].split()
    words[rng.randrange(4, len(words))] = rng.choice((b"-1", b"99:99:99:99", b"x" * 3000, b"00:00:00", b"\xff\xfe"))
    lines[at] = b"  ".join(words)
    return b"\n".join(lines)


def _one_clip(data: bytes, rng: random.Random) -> bytes:
    """One clip of a timeline with a value that makes no sense."""
    timeline = json.loads(data)
    clips = [c for t in timeline["tracks"]["children"][:1] for c in t["children"] if c["OTIO_SCHEMA"] == "Clip.2"]
    clip = rng.choice(clips)
    time = clip["source_range"][rng.choice(("start_time", "duration"))]
    match rng.randrange(4):
        case 0:
            time["value"] = rng.choice((-1e12, 1e300, float("inf"), float("nan")))
        case 1:
            time["rate"] = rng.choice((0.0, -25.0, 1e-9, float("nan")))
        case 2:
            clip["name"] = rng.choice(("", "n" * 5000, "a\u202eb"))
        case 3:
            clip["media_references"]["DEFAULT_MEDIA"]["target_url"] = rng.choice(("http://a/b.mp4", "", "../" * 300))
    return json.dumps(timeline).encode()


def _one_decision(data: bytes, rng: random.Random) -> bytes:
    """Every decision of a return agreed to, and one of them spoilt."""
    whole = json.loads(data)
    decisions = [each for master in whole["masters"] for each in master["decisions"]]
    for each in decisions:
        each["framing"]["verdict"] = "agreed"
    said = rng.choice(decisions)
    spoilt = rng.choice((said, said["framing"], said["framing"]["panes"][0], said["framing"]["panes"][0]["keys"][0]))
    spoilt[rng.choice(sorted(spoilt))] = rng.choice((None, -1, 1e300, "x" * 5000, [], {}, [[]]))
    return json.dumps(whole).encode()


def _shown(folder: Path) -> int:
    doc = load_project(folder / "out.ezvar")
    return sum(doc.media_of(shot).kind != "black" for shot in doc.shots)


_JSON = (*(m.json_alike,) * 6, *(m.json_values,) * 4, m.brackets, m.cut, m.bits, m.lines)
_TEXT = (m.lines, m.lines, m.lines, m.cut, m.bits, m.encoded)
_BYTES = (m.bits, m.bits, m.head, m.cut)

KINDS = (
    Kind("project", "whole.ezvar", _JSON, (_CHECK, ("windows", "{file}", "--master", "9:16"), ("doubts", "{file}"))),
    Kind("project made", "whole.ezvar", _JSON, (_MAKE,)),
    Kind("project handed out", "plain.ezvar", _JSON, (("handoff", "{file}", "-o", "out"),)),
    Kind("OTIO", "cut.otio", _JSON, (_PLAN,), _one_clip, _shown, CLIPS),
    Kind("bundle", "cut.otioz", (m.members, m.members, *_BYTES), (_PLAN,)),
    Kind("EDL", "cut.edl", _TEXT, ((*_PLAN, "--rate", "25"),), _one_line, _shown, EVENTS),
    Kind("AAF", "back.aaf", _BYTES, (_PLAN,)),
    Kind("returned OTIO", "back.otio", _JSON, (_TAKE,)),
    Kind("returned JSON", "back.json", _JSON, (_TAKE,), _one_decision, _agreed, RETURNED),
    Kind("returned table", "back.csv", _TEXT, (_TAKE,), _one_row, _agreed, RETURNED),
    Kind("returned list", "back.edl", _TEXT, (_TAKE,)),
    Kind("SRT", "c.srt", _TEXT, (("captions", "plain.ezvar", "--take", "{file}"),), _one_cue, _captions, CAPTIONS),
    Kind("WebVTT", "c.vtt", _TEXT, (("captions", "plain.ezvar", "--take", "{file}"),), _one_vtt, _captions, CAPTIONS),
    Kind("TTML", "c.ttml", (*_TEXT, m.entities), (("captions", "plain.ezvar", "--take", "{file}"),)),
    Kind("colour table", "t.cube", _TEXT, (
        ("colours", "plain.ezvar", "--table", "{file}"),
        ("still", "plain.ezvar", "--master", "9:16", "--at", "3", "-o", "s.png"),
    )),
    Kind("presets", "presets.json", _JSON, ((*_MAKE, "--preset", "own"),)),
    Kind("profiles", "receiving.json", _JSON, (("check", "whole.ezvar"), _MAKE)),
    Kind("font", "own.ttf", _BYTES, (("check", "whole.ezvar"), _MAKE)),
    *(Kind(f"image {end}", f"paper.{end}", _BYTES, (("plan", "cut.otio", *_PLAN[2:]),))
      for end in ("png", "jpg", "tif", "webp")),
    Kind("backdrop", "paper.png", _BYTES, (_MAKE,)),
    Kind("MP4", "a.mp4", (*_BYTES, m.table, m.table), (_PLAN, ("cuts", "{file}"))),
    *(Kind(f"movie {end}", f"m.{end}", _BYTES, (("cuts", "{file}"),)) for end in ("mkv", "mov", "avi", "webm")),
    Kind("media gone bad", "a.mp4", (m.bits, m.cut, m.table), (_MAKE,)),
)  # fmt: skip
