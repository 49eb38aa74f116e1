"""Which encoding a text file is in."""

from __future__ import annotations

import codecs
import re

import chardet

from ezvar.core.errors import EzvarError, InputError

ENCODINGS = (
    ("utf-8", "Unicode (UTF-8)"), ("utf-16", "Unicode (UTF-16)"), ("cp1252", "Western European (Windows-1252)"),
    ("iso8859_15", "Western European (ISO 8859-15)"), ("cp1250", "Central European (Windows-1250)"),
    ("iso8859_2", "Central European (ISO 8859-2)"), ("cp1251", "Cyrillic (Windows-1251)"),
    ("koi8_r", "Cyrillic (KOI8-R)"), ("cp1253", "Greek (Windows-1253)"), ("cp1254", "Turkish (Windows-1254)"),
    ("cp1255", "Hebrew (Windows-1255)"), ("cp1256", "Arabic (Windows-1256)"), ("cp1257", "Baltic (Windows-1257)"),
    ("cp1258", "Vietnamese (Windows-1258)"), ("cp874", "Thai (Windows-874)"), ("cp932", "Japanese (Shift-JIS)"),
    ("euc_jp", "Japanese (EUC-JP)"), ("gb18030", "Chinese (GB 18030)"), ("big5", "Chinese (Big5)"),
    ("cp949", "Korean (Windows-949)"),
)  # fmt: skip
"""Encodings that can be chosen: Python's name, and words for it."""
_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))
_GUESSED = [name.replace("_", "-").replace("iso8859-", "iso-8859-") for name, _ in ENCODINGS if name[:3] != "utf"]
_LATIN = frozenset({"cp1252", "iso8859-15", "cp1250", "iso8859-2", "cp1254", "cp1257", "cp1258"})
_MIXED = re.compile("[a-z][\u0370-\u07ff\u0e00-\u0e7f]|[\u0370-\u07ff\u0e00-\u0e7f][a-z]")  # no word is so
_LETTERS: dict[str, tuple[str, ...]] = {
    "cp1252": (
        "éèêëàâîïôûùüÿçæœ",
        "äöüß",
        "áéíóúüñ",
        "àèéìíòóù",
        "áâãàçéêíóôõú",
        "éëïóöü",
        "åäöéü",
        "æøåéó",
        "ðþæöáéíóúý",
    ),
    "cp1250": ("ąćęłńóśźż", "áčďéěíňóřšťúůýžäôľĺŕ", "áéíóöőúüű", "čćđšž", "ăâîşţ"),
    "cp1254": ("çğıiöşüâîû",),
    "cp1257": ("āčēģīķļņšūž", "ąčęėįšųūž", "äöõüšž"),
}
"""Letters beside ASCII of languages that an encoding was made for."""


def decode(data: bytes, encoding: str = "", file: str = "") -> tuple[str, str]:
    """Text from bytes, and the encoding it is in: the one that is given, else told from the bytes.

    Told by a byte-order mark, then as UTF-8, then as UTF-16 without a mark,
    then by which of the usual ones makes the likeliest text. Raises
    `InputError` for an encoding that does not exist or does not fit.
    """
    if encoding:
        try:
            name = codecs.lookup(encoding).name
            return _without_mark(data.decode(name)), name.replace("-", "_") if name != "utf-8" else name
        except LookupError as error:
            raise InputError(f"there is no encoding “{encoding}”", remedy="Write one like utf-8 or cp1252") from error
        except UnicodeDecodeError as error:
            line = data.count(b"\n", 0, error.start) + 1
            raise InputError(
                f"it is not in the encoding {encoding}", file=file or None, place=f"line {line}",
                remedy="Choose another encoding",
            ) from error  # fmt: skip
    guess = _told(data)
    try:
        return _without_mark(data.decode(guess)), guess.removesuffix("-sig")
    except UnicodeDecodeError as error:
        raise _no_text(file) from error


def _no_text(file: str) -> EzvarError:
    return InputError("it is no text in any usual encoding", file=file or None, remedy="Name its encoding")


def _told(data: bytes) -> str:
    for mark, name in _MARKS:
        # Lines end, in UTF-16, with a zero byte too: without any, the mark is only damage.
        if data.startswith(mark) and (name != "utf-16" or b"\0" in data):
            return name
    halves = data[:2000:2], data[1:2000:2]
    if any(len(half) > 8 and half.count(0) > 0.4 * len(half) for half in halves):
        return "utf-16-le" if halves[1].count(0) > halves[0].count(0) else "utf-16-be"
    try:
        data.decode("utf-8")
        return "utf-8"
    except UnicodeDecodeError:
        guess = chardet.detect(_telling(data), include_encodings=_GUESSED)  # one of the older ones
    name = codecs.lookup(str(guess["encoding"] or "cp1252")).name
    # Of encodings of Latin letters the one that spells some language is likelier than what little text tells.
    latin = name in _LATIN or _MIXED.search(data.decode(name, "replace"))
    return next((each for each in _LETTERS if _spells(data, each)), name) if latin else name


def _spells(data: bytes, encoding: str) -> bool:
    """Whether all letters beside ASCII are those of one language."""
    try:
        letters = {sign for sign in data.decode(encoding).lower() if sign > "\x7f" and not _is_mark(sign)}
    except UnicodeDecodeError:
        return False
    return any(letters <= set(alphabet) for alphabet in _LETTERS[encoding])


def _is_mark(sign: str) -> bool:
    return sign in "“”„‘’‚«»‹›–—…¿¡°·€£§©®\u00a0♪"


def _telling(data: bytes) -> bytes:
    """The lines that are not plain ASCII: of a file of times these alone tell."""
    lines = [line for line in data.splitlines() if any(byte > 127 for byte in line)]
    return b"\n".join(lines[:2000])


def _without_mark(text: str) -> str:
    return text.removeprefix("\ufeff")
