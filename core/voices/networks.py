"""The two networks that tell voices apart, as ONNX graphs made from their published weights.

- Segmentation (Bredin 2023, "pyannote.audio 2.1"; Plaquet and Bredin 2023, "Powerset multi-class cross entropy loss"): 10 s of sound
  → for each frame, which of up to three voices speak. Filters of SincNet (Ravanelli and Bengio 2018), four bidirectional LSTMs.
- Embedding (Wang et al. 2023, "CAM++: A Fast and Efficient Network for Speaker Verification Using Context-Aware Masking"):
  log-mel frames → what a voice sounds like.

`python -m core.voices.networks FOLDER` makes segmentation.onnx and embedding.onnx beside the weights in FOLDER.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import numpy as np
from onnx import TensorProto

from core.graph import Graph
from core.voices.weights import read_weights

_EPSILON = 1e-5  # PyTorch's default, in batch and instance normalisation


class _Graph(Graph):
    """With the layers that both networks have."""

    def scale_and_shift(self, norm: str) -> tuple[np.ndarray, np.ndarray]:
        """Batch normalisation of a trained network is a scale and a shift of each channel."""
        w = self.weights
        scale = w.get(f"{norm}.weight", np.float32(1)) / np.sqrt(w[f"{norm}.running_var"] + _EPSILON)
        return scale, w.get(f"{norm}.bias", np.float32(0)) - w[f"{norm}.running_mean"] * scale

    def normalise(self, x: str, norm: str) -> str:
        """Batch normalisation and ReLU of (batch, channels, frames)."""
        scale, shift = self.scale_and_shift(norm)
        scaled = self.add("Mul", x, self.constant(scale[None, :, None].astype(np.float32)))
        return self.add("Relu", self.add("Add", scaled, self.constant(shift[None, :, None].astype(np.float32))))

    def convolve(self, x: str, name: str, norm: str = "", relu: bool = False, **attributes: Any) -> str:
        """A convolution; the batch normalisation that follows it, if any, is worked into its weights."""
        kernel, bias = self.weights[f"{name}.weight"], self.weights.get(f"{name}.bias")
        if norm:
            scale, bias = self.scale_and_shift(norm)
            kernel = kernel * scale.reshape(-1, *[1] * (kernel.ndim - 1))
        inputs = [x, self.constant(kernel.astype(np.float32))] + ([self.constant(bias.astype(np.float32))] if bias is not None else [])
        convolved = self.add("Conv", *inputs, **attributes)
        return self.add("Relu", convolved) if relu else convolved


def build_embedding(weights: dict[str, np.ndarray], path: Path) -> None:
    """CAM++: log-mel frames, shape (batch, frames, 80), 200 frames at most → (batch, 192), not scaled to length 1."""
    g = _Graph(weights)
    x = g.add("Unsqueeze", g.add("Transpose", "frames", perm=[0, 2, 1]), g.constant(np.array([1])))
    flat: dict[str, Any] = {"pads": [1, 1, 1, 1], "strides": [1, 1]}
    halved: dict[str, Any] = {"pads": [1, 1, 1, 1], "strides": [2, 1]}
    x = g.convolve(x, "head.conv1", "head.bn1", relu=True, **flat)
    for layer in ("head.layer1", "head.layer2"):
        for block, shape in ((f"{layer}.0", halved), (f"{layer}.1", flat)):
            inner = g.convolve(x, f"{block}.conv1", f"{block}.bn1", relu=True, **shape)
            inner = g.convolve(inner, f"{block}.conv2", f"{block}.bn2", **flat)
            past = g.convolve(x, f"{block}.shortcut.0", f"{block}.shortcut.1", strides=[2, 1]) if shape is halved else x
            x = g.add("Relu", g.add("Add", inner, past))
    x = g.convolve(x, "head.conv2", "head.bn2", relu=True, **halved)
    x = g.add("Reshape", x, g.constant(np.array([0, 320, -1])))
    x = g.convolve(x, "xvector.tdnn.linear", "xvector.tdnn.nonlinear.batchnorm", relu=True, pads=[2, 2], strides=[2])
    for number, (layers, dilation) in enumerate(((12, 1), (24, 2), (16, 2)), start=1):
        for depth in range(1, layers + 1):
            x = g.add("Concat", x, _masked(g, x, f"xvector.block{number}.tdnnd{depth}", dilation), axis=1)
        transit = f"xvector.transit{number}"
        x = g.convolve(g.normalise(x, f"{transit}.nonlinear.batchnorm"), f"{transit}.linear")
    x = g.normalise(x, "xvector.out_nonlinear.batchnorm")
    mean = g.add("ReduceMean", x, axes=[2], keepdims=1)
    away = g.add("Sub", x, mean)
    count = g.add("Cast", g.add("Sub", g.add("Shape", x, start=2, end=3), g.constant(np.array([1]))), to=TensorProto.FLOAT)
    spread = g.add("ReduceSum", g.add("Mul", away, away), g.constant(np.array([2])), keepdims=1)
    deviation = g.add("Sqrt", g.add("Div", spread, count))
    pooled = g.add("Concat", mean, deviation, axis=1)
    vector = g.convolve(pooled, "xvector.dense.linear", "xvector.dense.nonlinear.batchnorm")
    g.save(path, [("frames", ["batch", "frames", 80])], g.add("Squeeze", vector, g.constant(np.array([2]))), ("vectors", ["batch", 192]))


def _masked(g: _Graph, x: str, name: str, dilation: int) -> str:
    """A densely connected layer: a convolution, masked by what its surroundings sound like."""
    cam = f"{name}.cam_layer"
    x = g.convolve(g.normalise(x, f"{name}.nonlinear1.batchnorm"), f"{name}.linear1", f"{name}.nonlinear2.batchnorm", relu=True)
    local = g.convolve(x, f"{cam}.linear_local", pads=[dilation, dilation], dilations=[dilation])
    # The context is the mean of all frames plus that of the 2 s around: of up to 2 s, the same twice.
    mean = g.add("ReduceMean", x, axes=[2], keepdims=1)
    context = g.add("Add", mean, mean)
    return g.add("Mul", local, g.add("Sigmoid", g.convolve(g.convolve(context, f"{cam}.linear1", relu=True), f"{cam}.linear2")))


def build_segmentation(weights: dict[str, np.ndarray], path: Path) -> None:
    """PyanNet: sound of 16 kHz, shape (batch, 1, samples) → log probabilities of the seven sets of voices, (batch, frames, 7)."""
    g = _Graph(weights)

    def normalise(x: str, name: str) -> str:
        return g.add("InstanceNormalization", x, g.weight(f"{name}.weight"), g.weight(f"{name}.bias"), epsilon=_EPSILON)

    x = normalise("sound", "sincnet.wav_norm1d")
    x = g.add("Abs", g.add("Conv", x, g.constant(_sinc_filters(weights)), strides=[10]))
    for layer in range(3):
        if layer:
            x = g.convolve(x, f"sincnet.conv1d.{layer}")
        x = normalise(g.add("MaxPool", x, kernel_shape=[3], strides=[3]), f"sincnet.norm1d.{layer}")
        x = g.add("LeakyRelu", x, alpha=0.01)
    x = g.add("Transpose", x, perm=[2, 0, 1])  # frames first, as ONNX has its LSTM
    for layer in range(4):
        inputs = [_both_ways(g, f"lstm.{part}_l{layer}") for part in ("weight_ih", "weight_hh")]
        bias = np.concatenate([_gates(np.stack([weights[f"lstm.bias_{part}_l{layer}{way}"] for way in _WAYS])) for part in ("ih", "hh")], 1)
        x = g.add("LSTM", x, *inputs, g.constant(bias), outputs=1, hidden_size=128, direction="bidirectional")
        x = g.add("Reshape", g.add("Transpose", x, perm=[0, 2, 1, 3]), g.constant(np.array([0, 0, 256])))
    x = g.add("Transpose", x, perm=[1, 0, 2])
    for name in ("linear.0", "linear.1", "classifier"):
        x = g.add("Add", g.add("MatMul", x, g.constant(weights[f"{name}.weight"].T.copy())), g.weight(f"{name}.bias"))
        if name != "classifier":
            x = g.add("LeakyRelu", x, alpha=0.01)
    x = g.add("LogSoftmax", x, axis=-1)
    g.save(path, [("sound", ["batch", 1, "samples"])], x, ("sets", ["batch", "frames", 7]))


_WAYS = ("", "_reverse")


def _gates(weights: np.ndarray) -> np.ndarray:
    """PyTorch orders an LSTM's gates input, forget, cell, output; ONNX input, output, forget, cell. Shape (2, 4 · n, …)."""
    i, f, c, o = np.split(weights, 4, axis=1)
    return np.concatenate([i, o, f, c], axis=1)


def _both_ways(g: _Graph, name: str) -> str:
    return g.constant(_gates(np.stack([g.weights[name + way] for way in _WAYS])))


def _sinc_filters(weights: dict[str, np.ndarray]) -> np.ndarray:
    """Band-pass filters from their learnt edges, cosine and sine, shape (80, 1, 251) (Pariente et al. 2020, "Filterbank design")."""
    bank = "sincnet.conv1d.0.filterbank"
    low = 50 + np.abs(weights[f"{bank}.low_hz_"])
    high = np.clip(low + 50 + np.abs(weights[f"{bank}.band_hz_"]), 50, 8000)
    band = high - low
    times, window = weights[f"{bank}.n_"], weights[f"{bank}.window_"]  # half of each: the filters are symmetric
    even = (np.sin(high * times) - np.sin(low * times)) / (times / 2) * window
    odd = (np.cos(low * times) - np.cos(high * times)) / (times / 2) * window
    filters = [
        np.concatenate([left, centre, mirrored], axis=1) / (2 * band)
        for left, centre, mirrored in ((even, 2 * band, even[:, ::-1]), (odd, 0 * band, -odd[:, ::-1]))
    ]
    return np.concatenate(filters)[:, None, :].astype(np.float32)


def main(folder: Path) -> None:
    """Make both graphs from segmentation.pt and embedding.pt in the folder."""
    build_segmentation(read_weights(folder / "segmentation.pt"), folder / "segmentation.onnx")
    build_embedding(read_weights(folder / "embedding.pt"), folder / "embedding.onnx")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
