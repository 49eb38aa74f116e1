"""Plain values as JSON, and back, with names of files that are no UTF-8 kept to the byte.

Such a text is written as ``{"file-bytes": "caf%E9.mp4"}``, its bytes
percent-encoded (RFC 3986).
"""

from __future__ import annotations

import json
import os
from typing import Any
from urllib.parse import quote, unquote_to_bytes

from pydantic_core import PydanticSerializationError, to_json

from ezvar.core.names import readable
from ezvar.core.way_in import check_depth, check_numbers, parse_json

_BYTES = "file-bytes"


def dump_plain(values: Any, indent: int | None = None) -> bytes:
    """Values as JSON in UTF-8, numbers written so that they read back exactly."""
    try:
        return to_json(values, indent=indent, inf_nan_mode="constants")
    except PydanticSerializationError:
        return to_json(_stated(values), indent=indent, inf_nan_mode="constants")


def parse_plain(text: bytes) -> Any:
    """What `dump_plain` wrote. Raises `ValueError`, with the line where it can be told, for what is no JSON."""
    try:
        values = parse_json(text)
    except ValueError:
        if b"\\ud" not in text.lower():
            raise
        values = _loosely(text)
    return _exact(values) if f'"{_BYTES}"'.encode() in text else values


def _loosely(text: bytes) -> Any:
    """JSON whose texts hold halves of signs: how such names were written before they were stated."""
    check_depth(text)
    values = json.loads(text)
    check_numbers(values)
    return values


def _stated(values: Any) -> Any:
    if isinstance(values, dict):
        return {k: _stated(v) for k, v in values.items()}
    if isinstance(values, (list, tuple)):
        return [_stated(v) for v in values]
    if not isinstance(values, str) or values.isascii():
        return values
    try:
        values.encode()
    except UnicodeEncodeError:
        try:
            return {_BYTES: quote(os.fsencode(values), safe="/ ")}
        except UnicodeEncodeError:
            return readable(values)  # halves of signs that no file name can hold
    return values


def _exact(values: Any) -> Any:
    if isinstance(values, dict):
        if set(values) == {_BYTES} and isinstance(values[_BYTES], str):
            return os.fsdecode(unquote_to_bytes(values[_BYTES]))
        return {k: _exact(v) for k, v in values.items()}
    if isinstance(values, list):
        return [_exact(v) for v in values]
    return values
