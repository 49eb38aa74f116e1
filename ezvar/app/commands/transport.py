"""The go menu: the playhead by keys, playing, and the next that needs a look."""

from __future__ import annotations

from ezvar.app.kit.commands import Menu
from ezvar.core.model import Shot

from .workbench import Workbench, lock_open

_LEAD = 1.5  # seconds before and after a cut that is played across
GO: Menu[Workbench] = Menu("Go", when=lock_open)


def _shot(bench: Workbench) -> Shot:
    shot = bench.session.at.shot
    assert shot is not None  # a lock has shots
    return shot


@GO.command("go.play", "Play or pause", "Space")
def play(bench: Workbench) -> None:
    if bench.player.speed:
        bench.player.stop()
    else:
        bench.player.play(bench.session.at.frame)


@GO.command("go.back", "Play backwards", "J")
def play_backwards(bench: Workbench) -> None:
    bench.player.play(bench.session.at.frame, -1)


@GO.command("go.stop", "Stop", "K")
def stop(bench: Workbench) -> None:
    bench.player.stop()


@GO.command("go.forward", "Play, again for double speed", "L")
def play_forward(bench: Workbench) -> None:
    bench.player.play(bench.session.at.frame, 2 if bench.player.speed == 1 else 1)


def _step(bench: Workbench, by: int) -> None:
    bench.player.stop()
    bench.session.at.go(bench.session.at.frame + by)


@GO.command("go.frame_back", "One frame back", "Left")
def frame_back(bench: Workbench) -> None:
    _step(bench, -1)


@GO.command("go.frame_on", "One frame on", "Right")
def frame_on(bench: Workbench) -> None:
    _step(bench, 1)


def _shot_by(bench: Workbench, by: int) -> None:
    bench.player.stop()
    doc = bench.session.project.document
    place = doc.place_of(_shot(bench).id) + by
    bench.session.at.go_to_shot(doc.shots[max(0, min(place, len(doc.shots) - 1))])


@GO.command("go.shot_back", "Previous shot", "Up")
def shot_back(bench: Workbench) -> None:
    _shot_by(bench, -1)


@GO.command("go.shot_on", "Next shot", "Down")
def shot_on(bench: Workbench) -> None:
    _shot_by(bench, 1)


@GO.command("go.first", "First frame", "Home")
def first_frame(bench: Workbench) -> None:
    _step(bench, -bench.session.at.frame)


@GO.command("go.last", "Last frame", "End")
def last_frame(bench: Workbench) -> None:
    _step(bench, bench.session.project.document.lock.frames)


@GO.command("go.doubt", "Next that needs a look", "N")
def next_waiting(bench: Workbench) -> None:
    bench.to_next_waiting()


@GO.command("go.master", "Next master", "Q")
def next_master(bench: Workbench) -> None:
    at = bench.session.at
    masters = [m.id for m in bench.session.project.document.masters]
    if masters and at.master_id:
        at.set_master(masters[(masters.index(at.master_id) + 1) % len(masters)])


@GO.command("go.half", "Half speed", "Shift+K")
def play_at_half_speed(bench: Workbench) -> None:
    bench.player.play(bench.session.at.frame, 0.5)


@GO.command("go.play_shot", "Play this shot from its start", "P")
def play_shot(bench: Workbench) -> None:
    shot = _shot(bench)
    bench.player.play_spans([(shot.start, shot.end)])


@GO.command("go.loop", "Play this shot round and round", "Shift+Space")
def loop(bench: Workbench) -> None:
    shot = _shot(bench)
    bench.player.play_spans([(shot.start, shot.end)], loop=True)


def _play_across(bench: Workbench, frame: int) -> None:
    lock = bench.session.project.document.lock
    lead = round(lock.rate.fraction * _LEAD)
    bench.player.play_spans([(max(0, frame - lead), min(lock.frames, frame + lead))])


@GO.command("go.across_before", "Play across the cut before", "Shift+J")
def play_across_before(bench: Workbench) -> None:
    _play_across(bench, _shot(bench).start)


@GO.command("go.across_after", "Play across the cut after", "Shift+L")
def play_across_after(bench: Workbench) -> None:
    _play_across(bench, _shot(bench).end)


@GO.command("go.unplayed", "Play all that was not played since it changed", "Shift+P")
def play_unplayed(bench: Workbench) -> None:
    shots = bench.session.played.unplayed()
    if shots:
        bench.player.play_spans([(s.start, s.end) for s in shots])
    else:
        bench.session.messages.say("Every shot of this master was played since it last changed.")
