"""Presets that come with the program, and the coding of review movies."""

from __future__ import annotations

from ezvar.core.model import PictureCoding, Preset, SoundCoding

_MOVED = SoundCoding("pcm")

PRESETS: tuple[Preset, ...] = (
    Preset("delivery, H.264"),
    Preset("delivery, H.264 10 bit", PictureCoding(depth=10)),
    Preset("delivery, H.265", PictureCoding("h265", quality=20)),
    Preset("delivery, H.265 10 bit", PictureCoding("h265", depth=10, quality=20)),
    Preset("mezzanine, ProRes 422", PictureCoding("prores", "mov", 10, "422"), _MOVED),
    Preset("mezzanine, ProRes 422 HQ", PictureCoding("prores", "mov", 10, "422 HQ"), _MOVED),
    Preset("mezzanine, ProRes 4444", PictureCoding("prores", "mov", 10, "4444"), _MOVED),
    Preset("mezzanine, DNxHR HQ", PictureCoding("dnxhr", "mov", 8, "HQ"), _MOVED),
    Preset("mezzanine, DNxHR HQX", PictureCoding("dnxhr", "mov", 10, "HQX"), _MOVED),
    Preset("web, VP9", PictureCoding("vp9", "webm", quality=24), SoundCoding("opus", 160_000)),
    Preset("web, AV1", PictureCoding("av1", "webm", 10, quality=24), SoundCoding("opus", 160_000)),
    Preset("archive, FFV1", PictureCoding("ffv1", "mkv"), _MOVED),
    Preset("images, PNG", PictureCoding("png", "images"), SoundCoding("none")),
    Preset("images, JPEG", PictureCoding("jpeg", "images", quality=92), SoundCoding("none")),
    Preset("images, TIFF 16 bit", PictureCoding("tiff", "images", 16), SoundCoding("none")),
)
"""The first is the default one. H.264 is visibly lossless."""
DELIVERY = PRESETS[0]
REVIEW = Preset("review", PictureCoding(quality=27, effort="quick"), SoundCoding(bits=96_000))
"""Small and quick."""
