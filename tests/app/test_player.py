"""The clock that plays: parts, loops and speeds, silent and by a sound device."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QCoreApplication

from ezvar.app.viewer import player as player_
from ezvar.app.viewer.player import Player


class Clock:
    """Stands in for the machine's clock."""

    def __init__(self):
        self.now = 100.0

    def monotonic(self):
        return self.now


@pytest.fixture
def played(planned, qapp, monkeypatch):
    """A player of a silent lock of 80 frames at 25 a second, its clock, and the frames it has moved to."""
    clock = Clock()
    monkeypatch.setattr(player_, "time", clock)
    player = Player()
    player.set_lock(replace(planned, lock=replace(planned.lock, media=tuple(
        replace(m, has_sound=False) for m in planned.lock.media))))  # fmt: skip
    frames = []
    player.moved.connect(frames.append)
    yield player, clock, frames
    player.stop()


def tick(played, seconds):
    player, clock, frames = played
    clock.now += seconds
    player._tick()
    return frames[-1]


def test_frames_follow_the_clock_at_every_speed_and_dropped_ones_are_never_made_up_for(played):
    player, _, frames = played
    player.play(10)
    assert [tick(played, s) for s in (0.04, 0.04, 1.0)] == [11, 12, 37]
    player.play(40, 0.5)
    assert [tick(played, s) for s in (0.04, 0.04, 0.08)] == [40, 41, 42]
    player.play(40, 2)
    assert tick(played, 0.2) == 50
    player.play(40, -1)
    assert tick(played, 0.2) == 35
    assert tick(played, 9.0) == 0
    assert player.speed == 0
    assert len(frames) == 9


def test_the_end_stops_and_playing_there_begins_anew(played):
    player, _, _ = played
    player.play(70)
    assert tick(played, 5.0) == 79
    assert player.speed == 0
    player.play(79)
    assert tick(played, 0.04) == 1


def test_parts_follow_each_other_and_loops_go_round(played):
    player, _, frames = played
    began = []
    player.part_began.connect(lambda: began.append(player._at))
    player.play_spans([(20, 24), (60, 63)])
    assert [tick(played, 0.04) for _ in range(3)] == [21, 22, 23]
    assert tick(played, 0.04) == 23  # the part's last frame, and on to the next
    assert [tick(played, 0.04) for _ in range(2)] == [61, 62]
    tick(played, 0.04)
    assert player.speed == 0
    assert began == [0, 1]
    player.play_spans([(20, 24)], loop=True)
    for _ in range(12):
        tick(played, 0.04)
    assert player.speed == 1
    assert set(frames[-12:]) == {20, 21, 22, 23} or set(frames[-12:]) == {21, 22, 23}
    player.play_spans([])
    assert player.speed == 1  # nothing to play leaves what is playing


def test_a_sound_device_is_the_clock_and_each_part_begins_its_sound_anew(planned, qapp, monkeypatch):
    made = []

    class Sound:
        over = False

        def __init__(self, start, master):
            self.start, self.master, self.at, self.ended = start, master, 0.0, False
            made.append(self)

        @classmethod
        def begin(cls, doc, master, start):
            return cls(start, master)

        def feed(self):
            pass

        def seconds(self):
            return self.at

        def end(self):
            self.ended = True

    monkeypatch.setattr(player_, "_Sound", Sound)
    player, frames = Player(), []
    player.set_lock(planned)
    player.moved.connect(frames.append)
    player.play_spans([(0, 20), (40, 60)])
    made[0].at = 0.4
    player._tick()
    assert frames == [10]  # whatever the machine's own clock says
    made[0].at = 0.9
    player._tick()
    assert [s.start for s in made] == [0, 40]
    assert made[0].ended
    made[1].over = True
    player._tick()
    assert player.speed == 0
    player.play(0, 0.5)
    assert len(made) == 2  # no sound at other speeds
    player.hear(planned, planned.masters[0])
    player.play(0)
    assert [s.master for s in made] == [None, None, planned.masters[0]]
    player.stop()
    QCoreApplication.processEvents()
