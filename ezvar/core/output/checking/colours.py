"""The colours of what a witness draws: tables and HDR a second time, in R'G'B' and by plain means."""

from __future__ import annotations

import numpy as np

from ezvar.core.lock import tables_for
from ezvar.core.media import Cel, ColourTable, ColourTags, Picture, hdr_of_sdr
from ezvar.core.model import Document, Shot


class Colours:
    """The colours of a document's pictures, of which the first is coded as ``first`` says."""

    def __init__(self, doc: Document, first: ColourTags) -> None:
        self._doc = doc
        self._hdr = first.transfer if first.hdr and not doc.colouring.tone_mapped else None

    def of_picture(self, shot: Shot, picture: Picture) -> np.ndarray:
        """A picture of a shot with the colours that were asked for, R'G'B' uint8."""
        rgb, hdr = picture.rgb(), picture.tags.hdr
        for table in tables_for(self._doc, shot, picture.tags):
            rgb, hdr = looked_up(table, rgb), hdr and table.tags is None
        return rgb if hdr else self.among(rgb)

    def among(self, rgb: np.ndarray) -> np.ndarray:
        """R'G'B' of SDR, 0..255, as it is among what is shown."""
        if self._hdr is None:
            return rgb
        raised = hdr_of_sdr(np.asarray(rgb, np.float32) / 255, self._hdr) * 255
        return np.asarray(np.round(raised) if rgb.dtype == np.uint8 else raised, rgb.dtype)

    def named(self, text: str) -> np.ndarray:
        """A colour by its name, R'G'B' float32."""
        return self.among(np.array([int(text[k : k + 2], 16) for k in (1, 3, 5)], np.float32))

    def over(self, cel: Cel) -> np.ndarray:
        """What a cel shows over black, R'G'B' float32."""
        over = cel.planes.rgb().astype(np.float32)
        if self._hdr is None:
            return over
        share = np.maximum(cel.opacity, 1)[..., None] / np.float32(255)
        return np.asarray(self.among(np.minimum(over / share, 255)) * share)


def looked_up(table: ColourTable, rgb: np.ndarray) -> np.ndarray:
    """R'G'B' uint8 (height, width, 3) after a colour table, between whose values another interpolation goes than in
    movies: along each axis by itself."""
    from scipy.ndimage import map_coordinates  # loaded late: it would hold up the first window

    low, high = (np.array(end, np.float32) for end in (table.low, table.high))
    steps = len(table.values) - 1
    at = np.clip((rgb.astype(np.float32) / 255 - low) / (high - low), 0, 1) * steps
    if table.of_curves:
        found = [np.interp(at[..., k], np.arange(steps + 1), table.values[:, k]) for k in range(3)]
    else:
        places = at[..., ::-1].transpose(2, 0, 1)  # blue, green, red
        found = [map_coordinates(table.values[..., k], places, order=1, mode="nearest") for k in range(3)]
    return np.asarray(np.round(np.clip(np.stack(found, axis=-1), 0, 1) * 255), np.uint8)
