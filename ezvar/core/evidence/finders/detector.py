"""What the finders that are networks share: a session of the runtime, and the size of picture that suits it."""

from __future__ import annotations

import os
from functools import cached_property
from typing import Any

import numpy as np


class Detector:
    """A shipped network over RGB pictures. Raises `FileNotFoundError` when its file is not there."""

    long_side = 512
    """Samples of the longer side of the pictures that it is given."""

    def __init__(self, model: os.PathLike[str]) -> None:
        if not os.path.exists(model):
            raise FileNotFoundError(model)
        self._model = model

    @cached_property
    def _session(self) -> Any:
        """The network, loaded with its runtime by the first picture: both take their time and memory."""
        import onnxruntime

        options = onnxruntime.SessionOptions()
        options.log_severity_level = 3
        options.intra_op_num_threads = 1  # several pictures are looked at side by side instead
        options.add_session_config_entry("session.intra_op.allow_spinning", "0")  # others work meanwhile
        return onnxruntime.InferenceSession(str(self._model), options, providers=["CPUExecutionProvider"])

    def input_size(self, width: int, height: int) -> tuple[int, int]:
        """The size at which a picture of this size is best handed over: multiples of 32."""
        scale = self.long_side / max(width, height)
        return max(32, round(width * scale / 32) * 32), max(32, round(height * scale / 32) * 32)

    def run(self, tensor: np.ndarray) -> list[np.ndarray]:
        """The network's outputs for a float32 tensor (channels, height, width), or several (n, channels, ...)."""
        tensors = np.ascontiguousarray(tensor if tensor.ndim == 4 else tensor[None])
        return [np.asarray(o) for o in self._session.run(None, {self._session.get_inputs()[0].name: tensors})]
