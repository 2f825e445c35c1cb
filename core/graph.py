"""ONNX graphs built from published weights."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import onnx
from numpy.typing import ArrayLike
from onnx import TensorProto, helper, numpy_helper

_OPSET = 17
RUNTIME = "com.microsoft"
"""Operators that the runtime has beside those of ONNX itself."""
Port = tuple[str, list]
"""Name and shape of an input or output, symbolic where the shape varies."""


class Graph:
    """A graph under construction; each method adds a node and returns the name of its output."""

    def __init__(self, weights: dict[str, np.ndarray]):
        self.weights = weights
        self._nodes: list[onnx.NodeProto] = []
        self._constants: list[onnx.TensorProto] = []

    def add(self, kind: str, *inputs: str, outputs: int = 1, **attributes: Any) -> str:
        """A node of ONNX operator `kind`. Returns its first output."""
        names = [f"n{len(self._nodes)}.{index}" for index in range(outputs)]
        self._nodes.append(helper.make_node(kind, list(inputs), names, **attributes))
        return names[0]

    def split(self, x: str, parts: int) -> list[str]:
        """A value in equal parts along its last axis."""
        first = self.add("Split", x, outputs=parts, axis=-1)
        return [f"{first[: -len('.0')]}.{part}" for part in range(parts)]

    def constant(self, value: ArrayLike) -> str:
        """A constant."""
        name = f"c{len(self._constants)}"
        self._constants.append(numpy_helper.from_array(np.asarray(value), name))
        return name

    def weight(self, name: str) -> str:
        """A weight as it is."""
        return self.constant(self.weights[name])

    def save(self, path: Path, sources: Sequence[Port], result: str, target: Port) -> None:
        """Write the model: its inputs, floats but for those named `ids` (int64), and `result` as its output."""
        named = helper.make_node("Identity", [result], [target[0]])
        graph = helper.make_graph(
            [*self._nodes, named],
            path.stem,
            [
                helper.make_tensor_value_info(name, TensorProto.INT64 if name == "ids" else TensorProto.FLOAT, shape)
                for name, shape in sources
            ],
            [helper.make_tensor_value_info(target[0], TensorProto.FLOAT, target[1])],
            self._constants,
        )
        model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", _OPSET), helper.make_opsetid(RUNTIME, 1)], ir_version=8)
        onnx.checker.check_model(model)
        onnx.save(model, path)
