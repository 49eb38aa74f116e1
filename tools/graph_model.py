"""Turn a layered graph model (JSON topology beside a file of weights) into ONNX, as far as the things finder needs it.

The source graph keeps changing between channels-last and channels-first
around each convolution. All is built channels-first here, so that those
transpositions vanish, and paddings become those of the convolution behind
them. Weights of kernels are stored in eight bits with one scale an output
channel; the runtime multiplies them out when it loads the file, so that the
arithmetic stays in single precision.
"""

from __future__ import annotations

import base64
import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import onnx
from onnx import TensorProto, helper, numpy_helper

_SMALL = 1024  # weights below which eight bits save nothing


class GraphModel:
    """A graph model read from its JSON file, with the weights beside it."""

    def __init__(self, path: Path) -> None:
        described = json.loads(path.read_text())
        self.nodes = {node["name"]: node for node in described["modelTopology"]["node"]}
        self.weights = _weights(described["weightsManifest"], path.parent)

    def above(self, name: str, op: str) -> str:
        """The nearest node of a kind that a node's first inputs lead to."""
        while self.nodes[name]["op"] != op:
            name = self.nodes[name]["input"][0].split(":")[0]
        return name


def _weights(manifest: list[dict], folder: Path) -> dict[str, np.ndarray]:
    found: dict[str, np.ndarray] = {}
    for group in manifest:
        blob = b"".join((folder / part).read_bytes() for part in group["paths"])
        at = 0
        for weight in group["weights"]:
            stored = weight.get("quantization", weight)["dtype"]
            values = np.frombuffer(blob, np.dtype(stored), int(np.prod(weight["shape"])), at)
            at += values.nbytes
            found[weight["name"]] = values.reshape(weight["shape"])
    return found


class Converter:
    """Builds an ONNX graph from the outputs of a graph model backwards."""

    def __init__(self, model: GraphModel) -> None:
        self._model = model
        self._nodes: list[onnx.NodeProto] = []
        self._stored: dict[str, np.ndarray] = {}
        self._made: dict[str, str] = {}
        self._enlarging = {name for name, n in model.nodes.items() if n["op"] == "ResizeBilinear"}
        self._enlarging = set(sorted(self._enlarging)[: len(self._enlarging) // 2])  # downwards first, then upwards

    def convert(self, source: str, outputs: dict[str, str], shapes: dict[str, Sequence[int | str]]) -> onnx.ModelProto:
        """The model from input ``source`` to ``outputs``, by new name the place in the source graph."""
        self._made[source] = "images"
        for name, place in outputs.items():
            self._nodes.append(helper.make_node("Identity", [self._value(place)], [name]))
        images = helper.make_tensor_value_info("images", TensorProto.FLOAT, ["batch", 3, "height", "width"])
        given = [helper.make_tensor_value_info(name, TensorProto.FLOAT, shapes[name]) for name in outputs]
        stored = [numpy_helper.from_array(values, name) for name, values in self._stored.items()]
        graph = helper.make_graph(self._nodes, "things", [images], given, stored)
        made = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 13)], ir_version=8)
        onnx.checker.check_model(made)
        return made

    def _value(self, place: str) -> str:
        if place not in self._made:
            self._made[place] = self._build(place)
        return self._made[place]

    def _build(self, place: str) -> str:
        name, _, port = place.partition(":")
        node = self._model.nodes[name]
        inputs = node.get("input", [])
        match node["op"]:
            case "Const":
                return self._constant(self._model.weights[name].reshape(1, -1, 1, 1).astype(np.float32))
            case "Transpose" | "Pad" | "PadV2":
                return self._value(inputs[0])
            case "Conv2D":
                kernel = self._kernel(self._model.weights[inputs[1]].transpose(3, 2, 0, 1))
                return self._add("Conv", [self._value(inputs[0]), kernel], strides=_strides(node),
                                 pads=self._pads(inputs[0]))  # fmt: skip
            case "MaxPool":
                return self._add("MaxPool", [self._value(inputs[0])], kernel_shape=_integers(node, "ksize")[1:3],
                                 strides=_strides(node), pads=self._pads(inputs[0]))  # fmt: skip
            case "Add" | "Sigmoid":
                return self._add(node["op"], [self._value(i) for i in inputs])
            case "LeakyRelu":
                return self._add("LeakyRelu", [self._value(inputs[0])], alpha=float(node["attr"]["alpha"]["f"]))
            case "ConcatV2":
                return self._add("Concat", [self._value(i) for i in inputs[:-1]], axis=1)
            case "SplitV":
                sizes = self._constant(self._model.weights[inputs[1]].astype(np.int64))
                parts = [f"v{len(self._nodes)}_{k}" for k in range(len(self._model.weights[inputs[1]]))]
                self._nodes.append(helper.make_node("Split", [self._value(inputs[0]), sizes], parts, axis=1))
                self._made |= {f"{name}:{k}" if k else name: part for k, part in enumerate(parts)}
                return parts[int(port or 0)]
            case "ResizeBilinear":
                by = 2.0 if name in self._enlarging else 0.5
                scales = self._constant(np.array([1, 1, by, by], np.float32))
                return self._add("Resize", [self._value(inputs[0]), "", scales], mode="linear",
                                 coordinate_transformation_mode="half_pixel")  # fmt: skip
            case other:
                raise NotImplementedError(f"{other} at {name}")

    def _pads(self, place: str) -> list[int]:
        """The padding (top, left, foot, right) of what a place is made from."""
        node = self._model.nodes[place]
        if node["op"] == "Transpose":
            return self._pads(node["input"][0])
        if node["op"] not in ("Pad", "PadV2"):
            return [0, 0, 0, 0]
        (top, foot), (left, right) = self._model.weights[node["input"][1]][2:].tolist()
        return [top, left, foot, right]

    def _kernel(self, values: np.ndarray) -> str:
        if values.size < _SMALL:
            return self._constant(values.astype(np.float32))
        rows = values.astype(np.float32).reshape(len(values), -1)
        scale = np.maximum(np.abs(rows).max(axis=1, keepdims=True), 1e-12) / 127
        small = np.clip(np.round(rows / scale), -127, 127).astype(np.int8).reshape(values.shape)
        whole = self._add("Cast", [self._constant(small)], to=TensorProto.FLOAT)
        return self._add("Mul", [whole, self._constant(scale.reshape(-1, 1, 1, 1))])

    def _constant(self, values: np.ndarray) -> str:
        name = f"w{len(self._stored)}"
        self._stored[name] = np.ascontiguousarray(values)
        return name

    def _add(self, op: str, inputs: Sequence[str], **said: object) -> str:
        name = f"v{len(self._nodes)}"
        self._nodes.append(helper.make_node(op, list(inputs), [name], **said))
        return name


def _integers(node: dict, what: str) -> list[int]:
    return [int(v) for v in node["attr"][what]["list"]["i"]]


def _strides(node: dict) -> list[int]:
    padding = base64.b64decode(node["attr"]["padding"]["s"]).decode()
    if padding != "VALID":
        raise NotImplementedError(f"{padding} padding at {node['name']}")
    return _integers(node, "strides")[1:3]
