"""The codecs that masters can be made in: what each is called, what holds it, and how the library is told."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from ezvar.core.errors import OutputError
from ezvar.core.model import Codec, Container, Effort, PictureCoding, Preset, SoundCodec

SUFFIXES: Mapping[Container, str] = MappingProxyType(
    {"mp4": ".mp4", "mov": ".mov", "mkv": ".mkv", "webm": ".webm", "images": ""}
)
FORMATS: Mapping[Container, str] = MappingProxyType({"mp4": "mp4", "mov": "mov", "mkv": "matroska", "webm": "webm"})
"""The library's names of containers."""


@dataclass(frozen=True)
class Grade:
    """A kind of a codec: the library's name of its samples and of it, and of the kind in the file where it has one."""

    samples: str
    profile: str = ""
    tag: str = ""


@dataclass(frozen=True)
class Coder:
    """A codec. ``encoder`` is the library's name; ``containers`` the usual one first; ``grades`` by name, or by depth
    where the name is empty; ``best`` to ``worst`` bound its quality, with the ``usual`` one."""

    title: str
    encoder: str
    containers: tuple[Container, ...]
    grades: Mapping[tuple[str, int], Grade]
    quality: tuple[float, float, float] | None = None  # best, usual, worst
    rated: bool = False  # bits a second can be asked for
    passes: tuple[int, ...] = (1,)
    reorders: bool = False  # pictures are stored in another order than they are shown in
    matrices: tuple[int, ...] = ()  # the only ones (H.273) that it can say, the usual one first
    lit: bool = False  # it says on what light pictures were graded
    full: bool = False  # it says nothing of range, and is taken to be in full


_PLAIN = {("", 8): Grade("yuv420p"), ("", 10): Grade("yuv420p10le")}
_FILES: tuple[Container, ...] = ("mp4", "mov", "mkv")

CODERS: Mapping[Codec, Coder] = MappingProxyType({
    "h264": Coder(
        "H.264", "libx264", _FILES, {("", 8): Grade("yuv420p", "high"), ("", 10): Grade("yuv420p10le", "high10")},
        (1, 17, 51), True, (1, 2), True, lit=True,  # below 1 it is lossless, which its profile has not
    ),
    "h265": Coder(
        "H.265", "libx265", _FILES,
        {("", 8): Grade("yuv420p", "main", "hvc1"), ("", 10): Grade("yuv420p10le", "main10", "hvc1")},
        (0, 20, 51), True, (1, 2), True, lit=True,
    ),
    "prores": Coder("ProRes", "prores_ks", ("mov",), {
        ("422", 10): Grade("yuv422p10le", "2", "apcn"), ("422 HQ", 10): Grade("yuv422p10le", "3", "apch"),
        ("4444", 10): Grade("yuv444p10le", "4", "ap4h"),
    }),
    "dnxhr": Coder("DNxHR", "dnxhd", ("mov",), {
        ("LB", 8): Grade("yuv422p", "dnxhr_lb", "AVdh"), ("SQ", 8): Grade("yuv422p", "dnxhr_sq", "AVdh"),
        ("HQ", 8): Grade("yuv422p", "dnxhr_hq", "AVdh"), ("HQX", 10): Grade("yuv422p10le", "dnxhr_hqx", "AVdh"),
        ("444", 10): Grade("yuv444p10le", "dnxhr_444", "AVdh"),
    }, matrices=(1, 9)),
    "vp9": Coder("VP9", "libvpx-vp9", ("webm", "mkv"), {("", 8): Grade("yuv420p")}, (0, 24, 63), True),
    "av1": Coder("AV1", "libsvtav1", ("webm", "mp4", "mkv"), _PLAIN, (1, 24, 63), True, lit=True),
    "ffv1": Coder("FFV1", "ffv1", ("mkv",), _PLAIN),
    "png": Coder("PNG images", "png", ("images",), {("", 8): Grade("rgb24"), ("", 16): Grade("rgb48be")}),
    "jpeg": Coder(
        "JPEG images", "mjpeg", ("images",), {("", 8): Grade("yuvj420p")}, (100, 92, 1), matrices=(6,), full=True,
    ),
    "tiff": Coder("TIFF images", "tiff", ("images",), {("", 8): Grade("rgb24"), ("", 16): Grade("rgb48le")}),
})  # fmt: skip

SOUND_CODERS: Mapping[SoundCodec, tuple[str, tuple[Container, ...]]] = MappingProxyType({
    "aac": ("aac", ("mp4", "mov", "mkv")),
    "opus": ("libopus", ("webm", "mkv", "mp4")),
    "pcm": ("pcm_s24le", ("mov", "mkv")),
})  # fmt: skip
"""The library's names of sound codecs, and what holds each."""


def grade_of(coding: PictureCoding) -> Grade:
    """What the library is told of a coding's samples. Raises `OutputError` where the codec has no such kind."""
    coder = CODERS[coding.codec]
    found = coder.grades.get((coding.grade, coding.depth))
    if found is None:
        kinds = ", ".join(" ".join(filter(None, (grade, f"{depth} bit"))) for grade, depth in coder.grades)
        wanted = " ".join(filter(None, (coding.grade, f"{coding.depth} bit")))
        raise OutputError(f"{coder.title} cannot be made as {wanted}", remedy=f"Choose one of {kinds}")
    return found


def wrong_with(preset: Preset) -> list[str]:
    """Why a preset cannot be used, in sentences; none where it can."""
    picture, sound = preset.picture, preset.sound
    coder, said = CODERS[picture.codec], []
    if picture.container not in coder.containers:
        said.append(
            f"{coder.title} does not go into {picture.container.upper()}, only into {_listed(coder.containers)}."
        )
    try:
        grade_of(picture)
    except OutputError as error:
        said.append(f"{error}.")
    if coder.quality is None or picture.rating != "quality":
        if picture.rating != "quality" and not coder.rated:
            said.append(f"{coder.title} has no bit rate to choose.")
    else:
        low, high = sorted((coder.quality[0], coder.quality[2]))
        if not low <= picture.quality <= high:
            said.append(f"The quality of {coder.title} lies between {low:g} and {high:g}.")
    if picture.rating != "quality" and picture.passes not in coder.passes:
        said.append(
            f"{coder.title} is made in one pass here: its encoder offers no second one through its own options."
        )
    if (
        sound.codec != "none"
        and picture.container not in SOUND_CODERS[sound.codec][1]
        and picture.container != "images"
    ):
        held = _listed(SOUND_CODERS[sound.codec][1])
        said.append(f"{sound.codec.upper()} sound does not go into {picture.container.upper()}, only into {held}.")
    if preset.captions == "embedded" and picture.container == "images":
        said.append("Captions cannot be embedded in images.")
    return said


def _listed(containers: tuple[Container, ...]) -> str:
    return " or ".join(c.upper() for c in containers)


_EFFORTS: Mapping[Codec, Mapping[Effort, str]] = MappingProxyType({
    "h264": {"quick": "superfast", "usual": "fast", "thorough": "slow"},
    "h265": {"quick": "superfast", "usual": "fast", "thorough": "slow"},
    "vp9": {"quick": "6", "usual": "4", "thorough": "2"},
    "av1": {"quick": "9", "usual": "8", "thorough": "6"},
})  # fmt: skip


def encoder_options(coding: PictureCoding, bits: int = 0, peak: int = 0, group: int = 0) -> dict[str, str]:
    """What the library's encoder is told.

    Where they are rated, to come to so many ``bits`` a second and to at most
    ``peak`` for a moment, by which a file also says what its player must be
    able to do; and to begin a group of pictures at least every ``group``,
    where that is asked for.
    """
    effort = _EFFORTS.get(coding.codec, {}).get(coding.effort, "")
    options: dict[str, str] = {}
    grade = grade_of(coding)
    match coding.codec:
        case "h264":
            options = {"preset": effort, "profile": grade.profile}
        case "h265":
            options = {"preset": effort, "profile": grade.profile}
        case "prores" | "dnxhr":
            options = {"profile": grade.profile}
        case "vp9":
            options = {
                "deadline": "good",
                "cpu-used": effort,
                "row-mt": "1",
                "auto-alt-ref": "1",
                "lag-in-frames": "25",
            }
        case "av1":
            options = {"preset": effort}
        case "ffv1":
            options = {"level": "3", "g": "1", "slices": "4", "slicecrc": "1"}
        case "png":
            options = {"pred": "mixed"}
        case "tiff":
            options = {"compression_algo": "deflate"}
    if coding.rating == "quality" and coding.codec in ("h264", "h265", "vp9", "av1"):
        options["crf"] = f"{coding.quality:g}"
        if coding.codec == "vp9":
            options["b"] = "0"
    elif coding.rating != "quality":
        options["b"] = str(bits)
        if coding.codec in ("h264", "h265"):
            options |= {"maxrate": str(peak), "bufsize": str(peak * 2)}
    if group:
        options["g"] = str(group)
    return options
