"""Captions in and out."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken

from .parser import command, say_who_has_it

if TYPE_CHECKING:
    from ezvar.core.model import Document
    from ezvar.core.text import TakenCaptions

    from .parser import Commands

_FORMATS = {"srt": "SRT", "vtt": "WebVTT", "webvtt": "WebVTT", "ttml": "TTML"}


def add(commands: Commands) -> None:
    """Declare these commands."""
    captions = command(commands, "captions", _captions, "take captions in, or give them out for each master")
    captions.add_argument("project")
    way = captions.add_mutually_exclusive_group(required=True)
    way.add_argument("--take", metavar="FILE", help="an SRT, WebVTT or TTML file")
    way.add_argument("--give", choices=sorted(_FORMATS), metavar="FORMAT", help="srt, vtt or ttml")
    captions.add_argument("--offset", help="seconds to add to its times, or the timecode that they begin at")
    captions.add_argument("--encoding", default="", help="its encoding, where it is told wrongly")
    captions.add_argument("--rate", help="the rate that it was made for, where its times run too fast or too slow")
    captions.add_argument("--replace", metavar="TRACK", default="", help="a track whose captions it replaces")
    captions.add_argument("--master", action="append", metavar="NAME", help="masters to give captions for")
    captions.add_argument("-o", dest="output", metavar="FOLDER")


def _captions(options: argparse.Namespace, cancel: CancelToken) -> int:
    return _take(options) if options.take else _give(options)


def _take(options: argparse.Namespace) -> int:
    from fractions import Fraction

    from ezvar.core.errors import InputError
    from ezvar.core.store import update_project
    from ezvar.core.text import parse_offset, rate_change, take_captions
    from ezvar.core.timing import Rate

    def change(doc: Document) -> tuple[Document, tuple[Document, TakenCaptions]]:
        offset = None if options.offset is None else parse_offset(options.offset, doc.lock)
        try:
            by = rate_change(Rate.parse(options.rate), doc.lock) if options.rate else Fraction(1)
        except ValueError as error:
            raise InputError(str(error), remedy="Write it like 25 or 23.976") from error
        into = ""
        if options.replace:
            into = next((t.id for t in doc.tracks if t.name == options.replace), "")
            if not into:
                raise InputError(f"there is no track “{options.replace}”", file=options.project)
        changed, taken = take_captions(doc, options.take, offset, options.encoding, by, into)
        return changed, (changed, taken)

    say_who_has_it(options.project)
    doc, taken = update_project(options.project, change)
    print(taken.said(doc.lock))
    for each in taken.cues.left_out:
        print(each)
    return 1 if taken.cues.left_out else 0


def _give(options: argparse.Namespace) -> int:
    from typing import cast

    from ezvar.core.errors import InputError
    from ezvar.core.model import master_named
    from ezvar.core.store import load_project
    from ezvar.core.text import CaptionFormat, give_captions

    if not options.output:
        raise InputError("no folder is named", remedy="Add -o FOLDER")
    doc = load_project(options.project)
    masters = [master_named(doc, name) for name in options.master] if options.master else None
    for file in give_captions(doc, cast(CaptionFormat, _FORMATS[options.give]), options.output, masters):
        print(file)
    return 0
