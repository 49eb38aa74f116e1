"""A thousand merges of randomly edited copies: nothing is lost, nothing is settled silently, the order does not matter.

Run by `make bench`. It fails where one of these does not hold.
"""

from __future__ import annotations

import random
import time
from dataclasses import replace
from fractions import Fraction

from ezvar.core import edits
from ezvar.core.framing import plain
from ezvar.core.model import Document, Exchanged, Framing, Keyframe, Lock, Master, Media, Pane, ReviewNote, Shot, Source
from ezvar.core.planning import merged
from ezvar.core.review import returned_of
from ezvar.core.review.decision import digest
from ezvar.core.timing import Rate

MERGES, SHOTS, LENGTH = 1000, 6, 40


def begun() -> Document:
    """A small lock in two masters, as it was handed out."""
    media = Media("m", "/media/lock.mov", 640, 360, Rate(25), SHOTS * LENGTH, 0, False, "0" * 16)
    lock = Lock("merged", Rate(25), SHOTS * LENGTH, 640, 360, 0, False, (media,))
    shots = tuple(Shot(f"s{k}", k * LENGTH, (k + 1) * LENGTH, Source("m", Fraction(k * LENGTH))) for k in range(SHOTS))
    doc = Document(lock, shots, (Master("a", "9:16", 360, 640), Master("b", "1:1", 360, 360)))
    doc = replace(doc, framings=tuple(plain(doc, s, m) for s in shots for m in doc.masters))
    return replace(doc, exchanged=tuple(Exchanged(f.shot, f.master, digest(f)) for f in doc.framings))


def edited(doc: Document, chance: random.Random, who: str) -> Document:
    """A copy of which somebody has changed some framings and noted something."""
    for framing in doc.framings:
        luck = chance.random()
        if luck < 0.25:
            keys = (Keyframe(0, chance.choice((0.2, 0.4, 0.6))),)
            doc = edits.set_framings(doc, [replace(framing, panes=(Pane(keys),))])
        elif luck < 0.4:
            doc = edits.set_verdict(doc, framing.shot, framing.master, chance.choice(("agreed", "change")))
        if luck > 0.9:
            note = ReviewNote(
                f"{who}{framing.shot}{framing.master}", framing.shot, framing.master, 0, 1, who,
                "2026-01-31T12:00:00Z", who,
            )  # fmt: skip
            doc = edits.say_note(doc, note)
    return doc


def by_place(framings: tuple[Framing, ...]) -> dict[tuple[str, str], Framing]:
    return {(f.shot, f.master): f for f in framings}


def decision(framing: Framing) -> str:
    return digest(framing)


def check(seed: int) -> int:
    """One merge of several copies, in two orders; how many framings more than one hand had changed."""
    chance, base = random.Random(seed), begun()
    ours = edited(base, chance, "o")
    hands = [edited(base, chance, name) for name in "xyz"[: chance.randint(1, 3)]]
    results = []
    for _ in range(2):
        now = ours
        for theirs in chance.sample(hands, len(hands)):
            for master in theirs.masters:
                now = merged(now, [returned_of(theirs, master, base)])[0]
        results.append(now)
    before, mine = by_place(base.framings), by_place(ours.framings)
    both = 0
    for place, was in before.items():
        changed = {decision(f) for h in hands if decision(f := by_place(h.framings)[place]) != decision(was)}
        own = decision(mine[place]) != decision(was)
        for result in results:
            now = decision(by_place(result.framings)[place])
            listed = {decision(f) for f in result.versions if (f.shot, f.master) == place}
            if own or len(changed) > 1:
                assert now == decision(mine[place]), f"seed {seed}: what both changed is not ours any more"
                assert listed == changed - {now}, f"seed {seed}: not every version is listed"
            else:
                assert now == (changed or {decision(was)}).copy().pop(), f"seed {seed}: a decision is lost"
                assert not listed, f"seed {seed}: what nobody else changed is listed"
        both += own + len(changed) > 1
    notes = {n.id for each in (ours, *hands) for n in each.notes}
    assert all({n.id for n in result.notes} == notes for result in results), f"seed {seed}: a note is lost"
    return both


def main() -> None:
    start = time.perf_counter()
    both = sum(check(seed) for seed in range(MERGES))
    took = time.perf_counter() - start
    print(
        f"merging      {MERGES} merges of up to four hands, each in two orders: no decision and no note lost, {both} "
        f"framings that several changed all ours and listed, in any order ({took:.0f} s)",
        flush=True,
    )


if __name__ == "__main__":
    main()
