"""What is done to a file: plain functions of its bytes and a source of chance."""

from __future__ import annotations

import io
import json
import random
import re
import zipfile
from collections.abc import Callable
from typing import Any

Mutation = Callable[[bytes, random.Random], bytes]

_ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2, 10**6, 10**9, 2**31, 2**63 - 1, -(2**63), 2**64, 10**40, 0.0, 1e-9, -1e-300, 1e300,
    1e308, float("nan"), float("inf"), float("-inf"), "", " ", "x", "0", "-1", "1/0", "1e9", "0/0", "nan", "a" * 300,
    "a" * 100_000, "a\0b", "\ud800", "../../../etc/hostname", "/dev/zero", "/dev/stdin", "http://example.invalid/a.mp4",
    "concat:/etc/hostname", "file:///etc/hostname", "=1+1", "\u202e\u2067", [], {}, [[]], [None], {"": None},
)  # fmt: skip
_TEXTS = ("", " ", "x", "0", "1/3", "-7/2", "\u202eabc", "a\nb", "a" * 300, "#ff0000", "by hand", "9:16", "../a.mp4")
_WORDS = ("-1", "0", "99:99:99:99", "00:00:00:00", "1e99999999", "nan", "9" * 40, "-00:00:01,000", "\0", "\ufffd",
          "%s%n", "../..", "<", "&", "V", "AA/V", "-->", "{", "}", "\ud800")  # fmt: skip


def json_values(data: bytes, rng: random.Random) -> bytes:
    """One to three values of a JSON text made odd, taken out, or put there many times."""
    values = json.loads(data)
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        places = list(_places(values))
        if not places:
            break
        holder, at = rng.choice(places)
        how = rng.random()
        if how < 0.62:
            holder[at] = rng.choice(_ODD)
        elif how < 0.74:
            del holder[at]
        elif how < 0.82 and isinstance(holder[at], (int, float)) and not isinstance(holder[at], bool):
            holder[at] = holder[at] * rng.choice((-1, 2, 1000, 1e-9)) + rng.choice((0, 1, -1))
        elif how < 0.9 and isinstance(holder[at], list) and holder[at]:
            holder[at] = holder[at] * rng.choice((2, 12, 2000))
        elif how < 0.95:
            other, place = rng.choice(places)
            holder[at] = other[place]
            if _within(holder[at], holder):
                holder[at] = None
        else:
            holder[at] = _nested(rng.choice((20, 300, 5000)))
    return _written(values)


def json_alike(data: bytes, rng: random.Random) -> bytes:
    """Values of a JSON text made odd that stay of their kind: numbers for numbers, texts for texts."""
    values = json.loads(data)
    places = [(holder, at) for holder, at in _places(values) if isinstance(holder[at], (int, float, str))]
    for holder, at in rng.sample(places, min(len(places), rng.choice((1, 1, 2, 5)))):
        value = holder[at]
        if isinstance(value, bool):
            holder[at] = not value
        elif isinstance(value, str):
            texts = [other[place] for other, place in places if isinstance(other[place], str)]
            holder[at] = rng.choice([*_TEXTS, rng.choice(texts)])
        else:
            odd = (0, 1, -1, 2, 3, 9, 100, 10_000, 1_000_000, value * 2, value + 1, value - 1, -value, value // 2)
            chosen = rng.choice(odd)
            holder[at] = chosen if isinstance(value, int) else rng.choice((chosen, chosen / 1000, value / 1000, 0.5))
    return _written(values)


def _places(values: Any) -> list[tuple[Any, Any]]:
    found, left = [], [values]
    while left:
        each = left.pop()
        for at, value in each.items() if isinstance(each, dict) else enumerate(each):
            found.append((each, at))
            if isinstance(value, (dict, list)):
                left.append(value)
    return found


def _within(value: Any, holder: Any) -> bool:
    """Whether a value holds its own holder, so that it could not be written."""
    left = [value]  # not by recursion: values may be nested deeper than Python goes
    while left:
        each = left.pop()
        if each is holder:
            return True
        if isinstance(each, (dict, list)):
            left += each.values() if isinstance(each, dict) else each
    return False


def _nested(depth: int) -> Any:
    made: Any = 1
    for _ in range(min(depth, 700)):
        made = [made]
    return made


def _written(values: Any) -> bytes:
    return json.dumps(values, ensure_ascii=False).encode("utf-8", "surrogatepass")


def brackets(data: bytes, rng: random.Random) -> bytes:
    """Brackets far deeper than anybody writes, in the middle of a JSON text or alone."""
    deep = rng.choice((500, 100_000))
    inner = b"[" * deep + b"]" * deep
    at = data.find(b":", rng.randrange(len(data)))
    return inner if at < 0 else data[: at + 1] + inner + b"," + data[at + 1 :]


def lines(data: bytes, rng: random.Random) -> bytes:
    """Lines of a text taken out, said again, mixed up, filled, or with odd words."""
    found = data.decode("utf-8", "surrogateescape").split("\n")
    for _ in range(rng.choice((1, 1, 2, 4))):
        at = rng.randrange(len(found))
        match rng.randrange(8):
            case 0:
                del found[at]
            case 1:
                found[at:at] = [found[at]] * rng.choice((1, 3, 3000))
            case 2:
                other = rng.randrange(len(found))
                found[at], found[other] = found[other], found[at]
            case 3:
                found[at] = rng.choice((" " * 100_000, "x" * 100_000, "\t", "\0" * 40, "1 " * 50_000))
            case 4:
                found[at] += rng.choice((" " * 100_000, "y" * 100_000, "\r", "\u2028", "\0"))
            case _:
                words = re.split(r"(\s+)", found[at])
                words[rng.randrange(len(words))] = rng.choice(_WORDS)
                found[at] = "".join(words)
        if not found:
            break
    return "\n".join(found).encode("utf-8", "surrogatepass" if rng.random() < 0.5 else "replace")


def encoded(data: bytes, rng: random.Random) -> bytes:
    """A text in another encoding, or said to be in another one."""
    text = data.decode("utf-8", "replace")
    return rng.choice((
        text.encode("utf-16"), text.encode("utf-16-be"), text.encode("utf-32"), b"\xff\xfe" + data,
        b"\xef\xbb\xbf" * 3 + data,
        text.encode("utf-16")[:-1], data.replace(b"\n", b"\r"), b"\0" + data,
    ))  # fmt: skip


def entities(data: bytes, rng: random.Random) -> bytes:
    """XML that would grow without end, or read other files."""
    bombs = "".join(f'<!ENTITY e{k} "{f"&e{k - 1};" * 10 if k else "lol" * 10}">' for k in range(10))
    outside = '<!ENTITY e9 SYSTEM "file:///etc/hostname">'
    kind = f"<!DOCTYPE tt [{rng.choice((bombs, outside))}]>".encode()
    text = data.replace(b"</p>", b"&e9;</p>", 1)
    end = text.find(b"?>") + 2 if text.startswith(b"<?xml") else 0
    return text[:end] + kind + text[end:]


def bits(data: bytes, rng: random.Random) -> bytes:
    """Bits flipped, a few or many, anywhere."""
    changed = bytearray(data)
    for _ in range(rng.choice((1, 1, 4, 16, 100))):
        changed[rng.randrange(len(changed))] ^= 1 << rng.randrange(8)
    return bytes(changed)


def head(data: bytes, rng: random.Random) -> bytes:
    """Bytes of the beginning changed, where most formats say what they hold."""
    changed = bytearray(data)
    for _ in range(rng.choice((1, 2, 5, 20))):
        changed[rng.randrange(min(len(changed), 400))] = rng.choice((0, 1, 127, 128, 255, rng.randrange(256)))
    return bytes(changed)


def table(data: bytes, rng: random.Random) -> bytes:
    """Bytes of a movie's table changed."""
    at = max(0, data.rfind(b"moov"))
    changed = bytearray(data)
    for _ in range(rng.choice((1, 2, 5))):
        changed[rng.randrange(at, min(len(changed), at + 4000))] = rng.choice((0, 1, 127, 255, rng.randrange(256)))
    return bytes(changed)


def cut(data: bytes, rng: random.Random) -> bytes:
    """Cut short, empty, or with a piece taken out, twice there or filled with nothing."""
    first, last = sorted(rng.randrange(len(data) + 1) for _ in range(2))
    return rng.choice((
        data[:first], b"", data[:first] + data[last:], data[:last] + data[first:last] + data[last:],
        data[:first] + bytes(last - first) + data[last:], data[first:],
    ))  # fmt: skip


def members(data: bytes, rng: random.Random) -> bytes:
    """An archive with a member that is named, or packed, as none should be."""
    made = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(made, "w") as new:
        names = old.namelist()
        chosen = rng.choice(names)
        for name in names:
            content = old.read(name)
            if name != chosen:
                new.writestr(name, content)
                continue
            match rng.randrange(4):
                case 0:
                    new.writestr(
                        rng.choice(("../escaped", "/tmp/escaped", "media/../../escaped", "C:\\a", "a\0b")), content
                    )
                case 1:
                    new.writestr(name, bytes(30_000_000), zipfile.ZIP_DEFLATED)
                case 2:
                    link = zipfile.ZipInfo("media/link")
                    link.external_attr = 0o120777 << 16
                    new.writestr(link, "/etc/hostname")
                    new.writestr(name, content)
                case _:
                    new.writestr(name, json_values(content, rng) if name.endswith(".otio") else bits(content, rng))
    return made.getvalue()
