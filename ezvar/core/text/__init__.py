"""Text and graphics: caption files, how text is set, where it stands in a master, and what is wrong with it."""

from .anew import Writing, textless_version, titled_anew, writing_in
from .checking.clearing import cleared, raise_clear
from .checking.in_time import SHORT, ProblemName
from .checking.offers import Offer, caption_offers, split_place
from .checking.problems import CaptionChecks, CaptionProblem, Taken, in_frame, problem_line, problem_values
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
from .kept import (
    ACTION_SAFE,
    DESIGNS_KEPT,
    STYLES,
    TITLE_SAFE,
    ZONES,
    NamedDesign,
    NamedStyle,
    known_zones,
    shipped_zones,
    zones_for,
)
from .placing import SAFE, Fit, fit
from .setting.layout import LaidOut, Line
from .setting.titles import LaidTitle
from .setting.type import SHIPPED, FontFile, read_font
from .showing import (
    asked_of,
    caption_cel,
    fitting_size,
    laid_out,
    language_used,
    shown_at,
    style_of,
    title_cel,
    title_laid_out,
    titles_at,
)
from .writing.spreading import spread_text
from .writing.transcribing import SIMULATED, Transcript, captions_of_words, service_named, transcribe

__all__ = [
    "ACTION_SAFE",
    "DESIGNS_KEPT",
    "ENCODINGS",
    "FORMATS",
    "SAFE",
    "SHIPPED",
    "SHORT",
    "SIMULATED",
    "STYLES",
    "SUFFIXES",
    "TITLE_SAFE",
    "ZONES",
    "CaptionChecks",
    "CaptionFormat",
    "CaptionProblem",
    "Cues",
    "Fit",
    "FontFile",
    "LaidOut",
    "LaidTitle",
    "LeftOut",
    "Line",
    "NamedDesign",
    "NamedStyle",
    "Offer",
    "ProblemName",
    "Taken",
    "TakenCaptions",
    "Transcript",
    "Writing",
    "asked_of",
    "caption_cel",
    "caption_offers",
    "captions_of",
    "captions_of_words",
    "captions_text",
    "cleared",
    "fit",
    "fitting_size",
    "give_captions",
    "in_frame",
    "in_lock",
    "known_zones",
    "laid_out",
    "language_used",
    "parse_offset",
    "problem_line",
    "problem_values",
    "raise_clear",
    "rate_change",
    "read_captions",
    "read_font",
    "service_named",
    "shipped_zones",
    "shown_at",
    "spans_of",
    "split_place",
    "spread_text",
    "style_of",
    "tagged",
    "take_captions",
    "textless_version",
    "title_cel",
    "title_laid_out",
    "titled_anew",
    "titles_at",
    "transcribe",
    "write_captions",
    "writing_in",
    "zones_for",
]
