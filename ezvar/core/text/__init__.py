"""Text and graphics: caption files, how text is set, where it stands in a master, and what is wrong with it."""

from .checking.clearing import cleared, raise_clear
from .checking.offers import Offer, caption_offers, split_place
from .checking.problems import SHORT, CaptionChecks, CaptionProblem, ProblemName, problem_line, problem_values
from .exchange import TakenCaptions, captions_of, give_captions, parse_offset, rate_change, take_captions
from .formats import (
    ENCODINGS,
    FORMATS,
    SUFFIXES,
    CaptionFormat,
    Cues,
    LeftOut,
    captions_text,
    in_lock,
    read_captions,
    write_captions,
)
from .formats.markup import spans_of, tagged
from .placing import SAFE, Fit, fit
from .setting.layout import LaidOut, Line
from .setting.type import SHIPPED, FontFile, read_font
from .showing import asked_of, caption_cel, laid_out, language_used, shown_at, style_of
from .style_list import NamedStyle, load_styles, save_styles, styles_file
from .zones import ACTION_SAFE, TITLE_SAFE, load_zones, save_zones, shipped_zones, zones_file, zones_for

__all__ = [
    "ACTION_SAFE",
    "ENCODINGS",
    "FORMATS",
    "SAFE",
    "SHIPPED",
    "SHORT",
    "SUFFIXES",
    "TITLE_SAFE",
    "CaptionChecks",
    "CaptionFormat",
    "CaptionProblem",
    "Cues",
    "Fit",
    "FontFile",
    "LaidOut",
    "LeftOut",
    "Line",
    "NamedStyle",
    "Offer",
    "ProblemName",
    "TakenCaptions",
    "asked_of",
    "caption_cel",
    "caption_offers",
    "captions_of",
    "captions_text",
    "cleared",
    "fit",
    "give_captions",
    "in_lock",
    "laid_out",
    "language_used",
    "load_styles",
    "load_zones",
    "parse_offset",
    "problem_line",
    "problem_values",
    "raise_clear",
    "rate_change",
    "read_captions",
    "read_font",
    "save_styles",
    "save_zones",
    "shipped_zones",
    "shown_at",
    "spans_of",
    "split_place",
    "style_of",
    "styles_file",
    "tagged",
    "take_captions",
    "write_captions",
    "zones_file",
    "zones_for",
]
