"""The sentence encoder MiniLM (Wang et al. 2020; all-MiniLM-L6-v2, Apache-2.0) as ONNX graphs, plain and as taught to read meetings.

Plain, it says what a sentence is about: `ask` compares questions with turns by it. Taught, it says of each turn whether something is
settled, taken on or left open in it. What it was taught are low-rank updates of its weights (Hu et al. 2021, "LoRA"), trained on the
labelled meetings (docs/reading.md) and shipped with the code: three sets of them, each trained without a third of the meetings.

`python -m core.reading.network FOLDER` makes plain.onnx, taught-0.onnx, … beside model.zip in FOLDER.
"""

from __future__ import annotations

import math
import sys
import tempfile
import zipfile
from pathlib import Path

import numpy as np
from onnxruntime.quantization import QuantType, quantize_dynamic
from safetensors.numpy import load

from core.graph import Graph

TAUGHT = sorted((Path(__file__).resolve().parent / "taught").glob("*.npz"))
"""Updates, and the layer that tells kinds of turns apart."""
SCALE = 2.0
"""By which an update is multiplied before it is added."""
_LAYERS, _HEADS, _WIDTH = 6, 12, 384
_EPSILON = 1e-12


class _Encoder(Graph):
    """A BERT encoder's parts."""

    def __init__(self, weights: dict[str, np.ndarray], updates: dict[str, np.ndarray]):
        super().__init__(weights)
        self._updates = updates

    def dense(self, x: str, name: str) -> str:
        """A linear layer, its update worked in."""
        kernel = self.weights[f"{name}.weight"]
        if f"{name}.A" in self._updates:
            down, up = (self._updates[f"{name}.{part}"].astype(np.float32) for part in "AB")
            kernel = kernel + SCALE * up @ down
        return self.add("Add", self.add("MatMul", x, self.constant(kernel.T.copy())), self.weight(f"{name}.bias"))

    def normalise(self, x: str, name: str) -> str:
        """Layer normalisation."""
        return self.add("LayerNormalization", x, self.weight(f"{name}.weight"), self.weight(f"{name}.bias"), epsilon=_EPSILON)

    def attend(self, x: str, bias: str, layer: str) -> str:
        """Attention of each token to all that `bias` leaves in sight."""
        apart = self.constant(np.array([0, 0, _HEADS, _WIDTH // _HEADS]))
        heads = [self.add("Reshape", self.dense(x, f"{layer}.attention.self.{part}"), apart) for part in ("query", "key", "value")]
        query, value = (self.add("Transpose", heads[i], perm=[0, 2, 1, 3]) for i in (0, 2))
        key = self.add("Transpose", heads[1], perm=[0, 2, 3, 1])
        scale = self.constant(np.float32(1 / math.sqrt(_WIDTH // _HEADS)))
        weight = self.add("Softmax", self.add("Add", self.add("Mul", self.add("MatMul", query, key), scale), bias), axis=-1)
        together = self.add("Transpose", self.add("MatMul", weight, value), perm=[0, 2, 1, 3])
        return self.dense(self.add("Reshape", together, self.constant(np.array([0, 0, _WIDTH]))), f"{layer}.attention.output.dense")

    def gelu(self, x: str) -> str:
        """x · Φ(x)."""
        erf = self.add("Erf", self.add("Div", x, self.constant(np.float32(math.sqrt(2)))))
        half = self.add("Mul", x, self.constant(np.float32(0.5)))
        return self.add("Mul", half, self.add("Add", erf, self.constant(np.float32(1))))


def build_encoder(weights: dict[str, np.ndarray], updates: dict[str, np.ndarray], path: Path) -> None:
    """Tokens, `ids` and `mask` (1: a token, 0: padding), each (batch, tokens) → `states`, (batch, tokens, 384). Weights of 8 bits."""
    g = _Encoder(weights, updates)
    words = g.add("Gather", g.weight("embeddings.word_embeddings.weight"), "ids", axis=0)
    count = g.add("Shape", "ids", start=1, end=2)
    places = g.add("Slice", g.weight("embeddings.position_embeddings.weight"), g.constant(np.array([0])), count, g.constant(np.array([0])))
    kind = g.constant(weights["embeddings.token_type_embeddings.weight"][0])
    x = g.normalise(g.add("Add", g.add("Add", words, places), kind), "embeddings.LayerNorm")
    hidden = g.add("Mul", g.add("Sub", "mask", g.constant(np.float32(1))), g.constant(np.float32(1e4)))
    bias = g.add("Unsqueeze", hidden, g.constant(np.array([1, 2])))
    for number in range(_LAYERS):
        layer = f"encoder.layer.{number}"
        x = g.normalise(g.add("Add", x, g.attend(x, bias, layer)), f"{layer}.attention.output.LayerNorm")
        inner = g.gelu(g.dense(x, f"{layer}.intermediate.dense"))
        x = g.normalise(g.add("Add", x, g.dense(inner, f"{layer}.output.dense")), f"{layer}.output.LayerNorm")
    with tempfile.TemporaryDirectory() as scratch:
        exact = Path(scratch) / "exact.onnx"
        tokens = ["batch", "tokens"]
        g.save(exact, [("ids", tokens), ("mask", tokens)], x, ("states", [*tokens, _WIDTH]))
        quantize_dynamic(exact, path, weight_type=QuantType.QInt8, per_channel=True, op_types_to_quantize=["MatMul", "Gather"])


def main(folder: Path) -> None:
    """Make the graphs from model.zip in the folder, and put the tokenizer beside them."""
    with zipfile.ZipFile(folder / "model.zip") as archive:
        weights = load(archive.read("model.safetensors"))
        (folder / "tokenizer.json").write_bytes(archive.read("tokenizer.json"))
    build_encoder(weights, {}, folder / "plain.onnx")
    for number, path in enumerate(TAUGHT):
        with np.load(path) as updates:
            build_encoder(weights, dict(updates), folder / f"taught-{number}.onnx")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
