"""The sentence encoder MiniLM (Wang et al. 2020; all-MiniLM-L6-v2, Apache-2.0) as ONNX graphs, plain and as taught to read meetings.

Plain, it says what a sentence is about: `ask` compares questions with turns by it. Taught, it says of each turn whether something is
settled, taken on or left open in it; taught otherwise, which clauses belong into a sentence, and whether a sentence follows. What it was taught are low-rank updates of its weights (Hu et al. 2021, "LoRA"), trained on the
labelled meetings (docs/reading.md) and shipped with the code: three sets of them for turns, each trained without a third of the meetings.

`python -m core.reading.network FOLDER` makes plain.onnx, taught-0.onnx, …, compression.onnx and judge.onnx beside model.zip in FOLDER.
"""

from __future__ import annotations

import math
import sys
import tempfile
import zipfile
from pathlib import Path

import numpy as np
from onnx import TensorProto
from onnxruntime.quantization import QuantType, quantize_dynamic
from safetensors.numpy import load

from core.graph import RUNTIME, Graph

_LEARNT = Path(__file__).resolve().parent / "taught"
TAUGHT = sorted(_LEARNT.glob("part-*.npz"))
"""Updates, and the layer that tells kinds of turns apart."""
COMPRESSION, JUDGE = _LEARNT / "compression.npz", _LEARNT / "judge.npz"
"""Updates that make of it what says which clauses belong into a sentence (compression.py), and what judges one (writer/judge.py)."""
SCALE = 2.0
"""By which an update is multiplied before it is added."""
_LAYERS, _HEADS, _WIDTH = 6, 12, 384
_EPSILON = 1e-12


class _Encoder(Graph):
    """A BERT encoder's parts."""

    def __init__(self, weights: dict[str, np.ndarray], updates: dict[str, np.ndarray]):
        super().__init__(weights)
        self._updates = updates

    def kernel(self, name: str) -> np.ndarray:
        """The weights of a linear layer, shape (inputs, outputs), its update worked in."""
        kernel = self.weights[f"{name}.weight"]
        if f"{name}.A" in self._updates:
            down, up = (self._updates[f"{name}.{part}"].astype(np.float32) for part in "AB")
            kernel = kernel + SCALE * up @ down
        return kernel.T

    def dense(self, x: str, name: str) -> str:
        """A linear layer."""
        return self.add("Add", self.add("MatMul", x, self.constant(self.kernel(name).copy())), self.weight(f"{name}.bias"))

    def normalise(self, x: str, name: str) -> str:
        """Layer normalisation."""
        return self.add("LayerNormalization", x, self.weight(f"{name}.weight"), self.weight(f"{name}.bias"), epsilon=_EPSILON)

    def attend(self, x: str, mask: str, layer: str) -> str:
        """Attention of each token to all that are tokens by `mask`. Queries, keys and values come of one multiplication, which is faster."""
        names = [f"{layer}.attention.self.{part}" for part in ("query", "key", "value")]
        together = self.add("MatMul", x, self.constant(np.concatenate([self.kernel(name) for name in names], axis=1)))
        parts = self.split(together, 3)
        biases = self.constant(np.concatenate([self.weights[f"{name}.bias"] for name in names]))
        seen = self.add("MultiHeadAttention", *parts, biases, mask, num_heads=_HEADS, domain=RUNTIME)
        return self.dense(seen, f"{layer}.attention.output.dense")

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
    mask = g.add("Cast", "mask", to=TensorProto.INT32)
    for number in range(_LAYERS):
        layer = f"encoder.layer.{number}"
        x = g.normalise(g.add("Add", x, g.attend(x, mask, layer)), f"{layer}.attention.output.LayerNorm")
        inner = g.gelu(g.dense(x, f"{layer}.intermediate.dense"))
        x = g.normalise(g.add("Add", x, g.dense(inner, f"{layer}.output.dense")), f"{layer}.output.LayerNorm")
    with tempfile.TemporaryDirectory() as scratch:
        exact = Path(scratch) / "exact.onnx"
        tokens = ["batch", "tokens"]
        g.save(exact, [("ids", tokens), ("mask", tokens)], x, ("states", [*tokens, _WIDTH]))
        quantize_dynamic(
            exact,
            path,
            weight_type=QuantType.QInt8,
            per_channel=True,
            op_types_to_quantize=["MatMul", "Gather"],
            extra_options={"DefaultTensorType": TensorProto.FLOAT},  # of what the runtime's own operators bring forth
        )


def main(folder: Path) -> None:
    """Make the graphs from model.zip in the folder, and put the tokenizer beside them."""
    with zipfile.ZipFile(folder / "model.zip") as archive:
        weights = load(archive.read("model.safetensors"))
        (folder / "tokenizer.json").write_bytes(archive.read("tokenizer.json"))
    build_encoder(weights, {}, folder / "plain.onnx")
    for name, path in [*((f"taught-{number}", path) for number, path in enumerate(TAUGHT)), ("compression", COMPRESSION), ("judge", JUDGE)]:
        with np.load(path) as updates:
            build_encoder(weights, dict(updates), folder / f"{name}.onnx")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
