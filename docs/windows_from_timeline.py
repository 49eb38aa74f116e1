"""Prints the window of each clip of a handoff's timeline, in pixels of its picture: only OpenTimelineIO is needed.

    python windows_from_timeline.py "NAME.otio"

A line for each window: clip, frame of the clip, x, y, width, height, angle. Crop the picture to it, turn it back by the
angle, and scale it to the size of the master.
"""

import sys

import opentimelineio as otio

timeline = otio.adapters.read_from_file(sys.argv[1])
for clip in timeline.find_clips():
    for effect in clip.effects:
        for w in effect.metadata.get("window", {}).get("windows", ()):
            print(clip.name, w["frame"], w["x"], w["y"], w["width"], w["height"], w["angle"], sep="\t")
