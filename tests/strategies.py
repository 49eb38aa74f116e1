"""Hypothesis strategies for documents."""

from __future__ import annotations

from fractions import Fraction

from hypothesis import strategies as st

from ezvar.core.model import (
    EASES,
    LEAST_BEND,
    Anchoring,
    Arrangement,
    Backdrop,
    Beside,
    Caption,
    CaptionStyle,
    CaptionTrack,
    Check,
    Choices,
    Cut,
    Differing,
    Document,
    Drawn,
    Exchanged,
    Finished,
    Flaw,
    Framing,
    Held,
    Keyframe,
    Listed,
    Lock,
    MadePart,
    Making,
    Makings,
    Mark,
    Master,
    Media,
    NamedRange,
    Ordered,
    Pane,
    PictureCoding,
    Placed,
    Preset,
    Reason,
    Receiving,
    Rect,
    Report,
    ReviewNote,
    Revision,
    Row,
    Shot,
    Sight,
    SoundCoding,
    Source,
    Span,
    Spot,
    Title,
    TitleDesign,
    TrackStyle,
    Turn,
)
from ezvar.core.timing import RATES, FrameRange, Rate

fractions = st.floats(0, 1, allow_nan=False)
rates = st.one_of(
    st.sampled_from(RATES),
    st.builds(Rate, st.integers(1, 120)),
    st.builds(Rate, st.integers(900, 9000), st.integers(100, 300)),
)
names = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), min_size=1, max_size=12)


@st.composite
def keyframes(draw: st.DrawFn) -> tuple[Keyframe, ...]:
    frames = sorted(draw(st.sets(st.integers(-40, 400), min_size=1, max_size=5)))
    return tuple(
        Keyframe(
            f,
            draw(st.floats(-0.5, 1.5)),
            draw(st.floats(-0.5, 1.5)),
            draw(st.floats(0.05, 8)),
            draw(st.floats(-180, 180)),
            draw(st.sampled_from(EASES)),
            draw(st.floats(LEAST_BEND, 1 - LEAST_BEND)),
        )
        for f in frames
    )


rects = st.builds(Rect, fractions, fractions, st.floats(0.1, 1), st.floats(0.1, 1))
colours = st.from_regex(r"#[0-9a-f]{6}", fullmatch=True)
shades = (fractions, fractions, st.floats(1, 20), fractions, fractions, fractions)
backdrops = st.builds(Backdrop, st.sampled_from(["picture", "colour"]), colours, *shades) | st.builds(
    Backdrop, st.just("media"), colours, *shades, st.just("/media/paper.png")
)
trims = st.builds(Rect, st.floats(0, 0.4), st.floats(0, 0.4), st.floats(0.1, 0.6), st.floats(0.1, 0.6))
sights = st.builds(Sight, st.integers(0, 300), rects)
turns = st.builds(Turn, st.integers(0, 300), st.lists(sights, min_size=1, max_size=2).map(tuple))
choices = st.builds(
    Choices,
    st.lists(turns, max_size=3, unique_by=lambda t: t.frame).map(lambda t: tuple(sorted(t, key=lambda t: t.frame))),
    st.none() | fractions,
    st.booleans(),
    fractions,
    st.none() | st.floats(-0.5, 0.5),
    st.booleans(),
    st.none() | st.floats(0.1, 1),
    st.none() | st.floats(1, 4),
)
stretches = st.sampled_from([(), (FrameRange(-3, 20),), (FrameRange(0, 12), FrameRange(40, 41))])
panes = st.builds(Pane, keyframes(), rects, st.none() | backdrops, trims, stretches, choices)
gaps = st.floats(0, 0.1)
arrangements = st.builds(Arrangement, names, st.tuples(trims, trims), gaps, gaps, colours)
helds = st.builds(Held, st.lists(panes, min_size=1, max_size=2).map(tuple), st.none(), st.just("by hand"), names)


@st.composite
def framings(draw: st.DrawFn, shot: str, master: str) -> Framing:
    made = tuple(draw(st.lists(panes, min_size=1, max_size=2)))
    return Framing(
        shot,
        master,
        made,
        draw(st.sampled_from(["solved", "by hand", "from a set-up", "from review"])),
        draw(names),
        tuple(draw(st.lists(reasons, max_size=2))),
        draw(st.sampled_from(["open", "agreed", "change"])),
        draw(arrangements) if len(made) == 2 else None,
        draw(st.integers(-1, len(made) - 1)),
        tuple(draw(st.lists(helds, max_size=2))),
    )


reasons = st.builds(Reason, st.sampled_from(["face cut", "two subjects", "enlarged", "nothing found"]), fractions)


@st.composite
def masters(draw: st.DrawFn, id: str, frames: int) -> Master:
    start = draw(st.integers(0, frames - 1))
    ranges = draw(
        st.lists(
            st.builds(NamedRange, names, st.just(start), st.integers(start, frames), st.none() | st.floats(1, 60)),
            max_size=2,
        )
    )
    size = st.integers(8, 2160).map(lambda n: 2 * n)
    return Master(
        id,
        f"{id} {draw(names)}",
        draw(size),
        draw(size),
        draw(st.sampled_from(["fill", "whole"])),
        draw(backdrops),
        tuple(ranges),
        draw(fractions),
    )


marks = st.lists(st.tuples(fractions, fractions), min_size=1, max_size=3).map(lambda p: (Mark(tuple(p)),))


@st.composite
def receivers(draw: st.DrawFn) -> Receiving:
    """What somebody takes, or does not mind."""
    sides = st.none() | st.integers(16, 4000)
    loud = draw(st.none() | st.tuples(st.floats(-40, -20), st.floats(-20, -5)))
    some = st.lists(st.sampled_from(["h264", "prores"]), unique=True, max_size=2).map(tuple)
    return Receiving(draw(names) + "x", ("9:16",), draw(sides), draw(sides), pictures=draw(some), loudness=loud)


@st.composite
def rows_listed(draw: st.DrawFn, master: str, number: int, frames: int) -> Listed:
    """A row of the output list, for the whole master or frames of its own."""
    start = draw(st.none() | st.integers(0, frames - 1))
    sound = SoundCoding(channels="mono", loudness=draw(st.none() | st.floats(-40, -5)))
    return Listed(
        f"row {number}", master, "", start, None if start is None else draw(st.integers(start + 1, frames)),
        draw(st.none() | st.just(Preset("own", PictureCoding("prores", "mov", 10, "422"), sound))),
        draw(st.sampled_from([None, "beside", "none"])), draw(st.none() | st.just(sound)), "{lock} {range}",
        draw(names), draw(st.sampled_from(["replace", "number", "leave"])), draw(st.none() | receivers()),
    )  # fmt: skip


@st.composite
def makings(draw: st.DrawFn, rows: tuple[Row, ...]) -> Makings:
    """What became of rows: some finished, some ordered, with the documents that they name."""
    made = Makings()
    for row in rows:
        revision = Revision(draw(st.sampled_from(["r", "s"])), "packed")
        if draw(st.booleans()):
            flaws = (Flaw(draw(names), row.start, row.end),) if draw(st.booleans()) else ()
            parts = (MadePart(row.start, row.end, "part"),)
            moment, report = "2026-01-31T12:00:00Z", Report((Check("pictures", flaws),))
            file = Making(draw(names), "1 2", parts, "", draw(st.booleans()))
            made = made.with_ordered([Ordered(row, "", revision.name)], revision)
            made = made.with_finished(Finished(row, revision.name, file, moment, report, (draw(names),)))
        if draw(st.booleans()):
            state = draw(st.sampled_from(["waits", "stopped", "failed"]))
            made = made.with_ordered([Ordered(row, draw(names), revision.name, state, draw(names))], revision)
    return made


@st.composite
def documents(draw: st.DrawFn, max_shots: int = 5) -> Document:
    """A whole document of a flat lock, consistent in itself."""
    rate = draw(rates)
    lengths = draw(st.lists(st.integers(1, 300), min_size=1, max_size=max_shots))
    frames = sum(lengths)
    width, height = draw(st.integers(16, 4000)), draw(st.integers(16, 4000))
    first = draw(st.integers(0, 100_000))
    media = Media(
        "m1",
        "/media/lock.mov",
        width,
        height,
        rate,
        frames,
        first,
        draw(st.booleans()),
        draw(st.text("0123456789abcdef", min_size=8, max_size=8)),
    )
    lock = Lock(draw(names), rate, frames, width, height, first, False, (media,))
    shots, at = [], 0
    for k, length in enumerate(lengths):
        cut = (
            Cut("cut", at, at, draw(fractions), draw(st.floats(0, 100)), draw(names), draw(st.booleans()))
            if k
            else None
        )
        shots.append(Shot(f"s{k}", at, at + length, Source("m1", Fraction(at)), cut=cut))
        at += length
    chosen = tuple(draw(masters(f"m{k}", frames)) for k in range(draw(st.integers(0, 3))))
    decided = tuple(draw(framings(s.id, m.id)) for s in shots for m in chosen if draw(st.booleans()))
    exchanged = tuple(Exchanged(f.shot, f.master, "0123456789abcdef") for f in decided if draw(st.booleans()))
    drawn = tuple(
        Drawn(f"d{k}", s.id, 4, (0, 4), (draw(rects), draw(rects)), draw(names), "")
        for k, s in enumerate(shots)
        if draw(st.booleans())
    )
    track = CaptionTrack("t", draw(names), (Caption("c", 40, 80, (Span(draw(names) + "x", draw(st.booleans())),)),))
    styles = tuple(TrackStyle("t", m.id, CaptionStyle(size=draw(st.floats(0.02, 0.2)))) for m in chosen)
    differing = tuple(Differing("c", m.id, spot=Spot(0.5, draw(fractions)), right=("gap",)) for m in chosen)
    listed = tuple(draw(rows_listed(m.id, k, frames)) for k, m in enumerate(chosen) if draw(st.booleans()))
    became = draw(makings(tuple(Row(r.id, r.master, 0, frames) for r in listed)))
    return Document(
        lock, tuple(shots), chosen, decided, exchanged, drawn=drawn,
        tracks=(track,), styles=styles, differing=differing,
        titles=(Title("t1", "label", 0, 1, (draw(names) + "x",), TitleDesign(angle=draw(st.floats(-9, 9)))),),
        notes=tuple(
            ReviewNote(f"n{k}", s.id, m, 0, 1, draw(names), "2026-01-31T12:00:00Z", draw(names), marks=draw(marks))
            for k, s in enumerate(shots)
            for m in draw(st.sets(st.sampled_from(["", *(m.id for m in chosen)])))
        ),
        anchorings=(Anchoring("layer 2 0 x", "left", None, draw(st.floats(0, 0.45)), beside=Beside("t1", "below")),),
        placed=tuple(Placed("t1", m.id, draw(fractions), scale=2) for m in chosen),
        listed=listed, unlisted=("gone",), makings=became,
    )  # fmt: skip


aspects = st.fractions(Fraction(1, 8), 8).map(float)
