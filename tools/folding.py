"""Fewer steps for the same network: numbers that scale and shift what lies between its layers go into their weights.

Every rule is exact but for rounding. What is shifted before a layer that pads
its input stays a step of its own: at the picture's edges the padding would be
shifted with it.
"""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import onnx
from onnx import helper, numpy_helper


def fold(model: onnx.ModelProto) -> None:
    """Fold a model of convolutions and hard swishes, in place. Its weights are single precision."""
    folding = _Folding(model.graph)
    folding.after_layers()
    folding.swishes()
    folding.before_layers()
    folding.put_weights()


class _Folding:
    def __init__(self, graph: onnx.GraphProto) -> None:
        self._graph = graph
        self._weights = {w.name: numpy_helper.to_array(w) for w in graph.initializer}

    def after_layers(self) -> None:
        """Numbers by which a layer's output is multiplied, or that are added to it."""
        for layer in self._of("Conv"):
            while True:
                step = self._only_user(layer.output[0])
                times, plus = self._number(step, "Mul"), self._number(step, "Add")
                if step is None or (times is None and plus is None):
                    break
                self._change(layer, 1.0 if times is None else times, plus or 0.0)
                layer.output[0] = step.output[0]
                self._graph.node.remove(step)

    def swishes(self) -> None:
        """x times (x + 3, held within 0 and 6), over 6: a step for the gate and one for the product."""
        for held in self._of("Clip"):
            plus = next(n for n in self._graph.node if held.input[0] in n.output)
            product = self._only_user(held.output[0])
            over = product and self._only_user(product.output[0])
            if self._number(plus, "Add") != 3 or product is None or over is None or self._number(over, "Div") != 6:
                continue
            at = list(self._graph.node).index(plus)
            gate = helper.make_node("HardSigmoid", [self._other(plus)], [held.output[0]], alpha=1 / 6, beta=0.5)
            product.output[0] = over.output[0]
            for gone in (plus, held, over):
                self._graph.node.remove(gone)
            self._graph.node.insert(at, gate)

    def before_layers(self) -> None:
        """Numbers that multiply, and are added to, what layers alone take in."""
        for product in self._of("Mul"):
            times, step = self._number(product, "Mul"), self._only_user(product.output[0])
            plus = self._number(step, "Add")
            if times is None or step is None or plus is None:
                continue
            layers = self._users()[step.output[0]]
            if any(n.op_type != "Conv" or n.input[0] != step.output[0] for n in layers):
                continue
            pads = any(p for n in layers for a in n.attribute if a.name == "pads" for p in a.ints)
            for layer in layers:
                whole = self._weights[layer.input[1]].reshape(len(self._weights[layer.input[1]]), -1).sum(axis=1)
                self._change(layer, times, 0.0 if pads else plus * whole, inwards=True)
                if not pads:
                    layer.input[0] = self._other(product)
            if pads:
                name = step.output[0] + "_plus"
                self._weights[name] = np.array([plus / times], np.float32)
                step.input[:] = [self._other(product), name]
            else:
                self._graph.node.remove(step)
            self._graph.node.remove(product)

    def put_weights(self) -> None:
        """Give the graph the weights that it uses now."""
        used = {name for node in self._graph.node for name in node.input}
        del self._graph.initializer[:]
        self._graph.initializer.extend(
            numpy_helper.from_array(np.ascontiguousarray(w), name) for name, w in self._weights.items() if name in used
        )

    def _of(self, kind: str) -> list[onnx.NodeProto]:
        return [node for node in self._graph.node if node.op_type == kind]

    def _users(self) -> dict[str, list[onnx.NodeProto]]:
        found = defaultdict(list)
        for node in self._graph.node:
            for name in node.input:
                found[name].append(node)
        return found

    def _only_user(self, name: str) -> onnx.NodeProto | None:
        users = self._users()[name]
        return users[0] if len(users) == 1 else None

    def _number(self, node: onnx.NodeProto | None, kind: str) -> float | None:
        """The single number that a step of a kind works with."""
        if node is None or node.op_type != kind:
            return None
        numbers = [self._weights[n] for n in node.input if n in self._weights and self._weights[n].size == 1]
        return float(numbers[0].reshape(())) if numbers else None

    def _other(self, node: onnx.NodeProto) -> str:
        """What a step takes in beside its number."""
        return next(name for name in node.input if name not in self._weights)

    def _change(self, layer: onnx.NodeProto, times: float, plus: float | np.ndarray, inwards: bool = False) -> None:
        """Multiply a layer's output, or ``inwards`` its input, and add to its output."""
        kernel = self._weights[layer.input[1]]
        bias = self._weights[layer.input[2]] if len(layer.input) > 2 else np.zeros(len(kernel), np.float32)
        names = layer.output[0] + "_kernel", layer.output[0] + "_bias"
        self._weights[names[0]] = kernel * np.float32(times)
        self._weights[names[1]] = (bias * (1 if inwards else times) + plus).astype(np.float32)
        layer.input[1:] = names
