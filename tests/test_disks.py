"""Disks that are full, only read, or go away in the middle: a sentence, and what was there stands."""

import subprocess
import sys

import pytest

from benchmarks.disks import can_mount


@pytest.mark.skipif(not can_mount(), reason="no file systems of the tests' own can be mounted here")
def test_commands_on_disks_that_fail_end_in_a_sentence_and_cost_nothing():
    words = [sys.executable, "-m", "benchmarks.disks", "1", "7", "take", "doubts"]
    done = subprocess.run(words, check=False, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "only read                   2 right     0 wrong" in done.stdout
