"""Rates and timecode."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ezvar.core.timing import RATES, FrameRange, Rate, can_drop, frame_of, timecode

DROP = [Rate(30000, 1001), Rate(60000, 1001)]


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("23.976", Rate(24000, 1001)),
        ("23.98", Rate(24000, 1001)),
        ("24", Rate(24)),
        ("25/1", Rate(25)),
        ("29.97", Rate(30000, 1001)),
        ("30000/1001", Rate(30000, 1001)),
        ("59.94", Rate(60000, 1001)),
        ("12.5", Rate(25, 2)),
        (Fraction(50), Rate(50)),
    ],
)
def test_rates_are_read_exactly(text, rate):
    assert Rate.parse(text) == rate


@pytest.mark.parametrize("text", ["", "fast", "0", "-25", "1/0", "nan", "5000"])
def test_what_is_no_rate_is_refused(text):
    with pytest.raises(ValueError, match="rate"):
        Rate.parse(text)


@given(st.sampled_from(RATES), st.integers(0, 10**9))
def test_frame_at_a_frames_own_time_is_that_frame(rate, frame):
    assert rate.frame_at(rate.seconds(frame)) == frame
    assert rate.frame_at(rate.seconds(frame + 1) - Fraction(1, 10**12)) == frame


@given(st.sampled_from(RATES), st.integers(0, 24 * 3600 * 24 - 1), st.booleans())
def test_timecode_goes_both_ways(rate, frame, drop):
    drop = drop and can_drop(rate)
    assert frame_of(timecode(frame, rate, drop), rate) == frame


@given(st.sampled_from([Rate(15), Rate(120), Rate(25, 2), Rate(240)]), st.integers(0, 10**7))
def test_timecode_at_rates_outside_the_trade(rate, frame):
    assert frame_of(timecode(frame, rate), rate) == frame


@pytest.mark.parametrize("rate", DROP)
def test_drop_frame_counts_as_the_rule_says(rate):
    """Two (four) labels are left out at each minute but every tenth: counted out label by label for 21 minutes."""
    left_out, frame = rate.nominal // 15, 0
    for second in range(21 * 60):
        minute = second // 60
        for label in range(rate.nominal):
            if second % 60 == 0 and minute % 10 and label < left_out:
                with pytest.raises(ValueError, match="leaves out"):
                    frame_of(f"00:{minute:02d}:00;{label:02d}", rate)
                continue
            if label in (0, left_out, rate.nominal - 1):
                text = f"00:{minute:02d}:{second % 60:02d};{label:02d}"
                assert timecode(frame, rate, drop=True) == text
                assert frame_of(text, rate) == frame
            frame += 1


def test_drop_frame_keeps_up_with_the_clock():
    """After a day drop-frame timecode is off by less than a tenth of a second."""
    rate = Rate(30000, 1001)
    day = frame_of("23:59:59;29", rate) + 1
    assert abs(rate.seconds(day) - 86400) < Fraction(1, 10)
    assert timecode(day, rate, drop=True) == "24:00:00;00"


@pytest.mark.parametrize(
    "text", ["", "1", "01:00:00", "01:61:00:00", "01:00:00:25", "01:00:00;00", "a:b:c:d", "-1:00:00:00"]
)
def test_what_is_no_timecode_at_25_is_refused(text):
    with pytest.raises(ValueError, match="“"):
        frame_of(text, Rate(25))


def test_impossible_questions_are_refused():
    with pytest.raises(ValueError, match="counts from 0"):
        timecode(-1, Rate(25))
    with pytest.raises(ValueError, match="no drop-frame"):
        timecode(0, Rate(25), drop=True)
    with pytest.raises(ValueError, match="cannot end"):
        FrameRange(5, 4)
    with pytest.raises(ValueError, match="positive"):
        Rate(25, 0)
    assert len(FrameRange(3, 9)) == 6
    assert 8 in FrameRange(3, 9)
    assert 9 not in FrameRange(3, 9)
