"""The writer's model: Qwen2.5-Coder 1.5B Instruct (Hui et al. 2024, Apache-2.0) with what it was taught, in the form that CTranslate2 runs.

It is published in 4 bits (GGUF). The updates of its weights (Hu et al. 2021, "LoRA") are worked in and the result is kept in 8 bits, a scale a
row. `python -m core.reading.writer.network FOLDER [UPDATES.npz]` makes model.bin, config.json, vocabulary.json and tokenizer.json of the
model.gguf in FOLDER, with the updates that are shipped or with others.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import gguf
import numpy as np
from ctranslate2.specs import common_spec, transformer_spec
from ctranslate2.specs.model_spec import LayerSpec
from tokenizers import AddedToken, Regex, Tokenizer, decoders, models, normalizers, pre_tokenizers

from core.reading.writer.model import END, PROJECTIONS, SCALE

TAUGHT = Path(__file__).resolve().parent / "taught" / "writer.npz"
"""What it was taught: low-rank updates, by the names of model.py."""
_TENSORS = dict(
    zip(PROJECTIONS, ("attn_q", "attn_k", "attn_v", "attn_output", "ffn_gate", "ffn_up", "ffn_down"), strict=True)
)  # as GGUF calls the linear layers
_SPLIT = (
    r"(?i:'s|'t|'re|'ve|'m|'ll|'d)|[^\r\n\p{L}\p{N}]?\p{L}+|\p{N}| ?[^\s\p{L}\p{N}]+[\r\n]*|\s*[\r\n]+|\s+(?!\S)|\s+"
)  # how text is cut before its pairs of bytes are joined, as published with the model
_CONTROL = 3  # GGUF's type of a token that is not text


class _Weights:
    """The tensors of a GGUF file as numbers of 32 bits, updates worked in."""

    def __init__(self, reader: gguf.GGUFReader, updates: dict[str, np.ndarray]):
        self._tensors = {tensor.name: tensor for tensor in reader.tensors}
        self._updates = updates

    def __getitem__(self, name: str) -> np.ndarray:
        tensor = self._tensors[name]
        return np.ascontiguousarray(gguf.dequantize(tensor.data, tensor.tensor_type), dtype=np.float32)

    def linear(self, layer: int, projection: str) -> tuple[np.ndarray, np.ndarray | None]:
        """Weight, shape (outputs, inputs), and bias of a linear layer."""
        name = f"blk.{layer}.{_TENSORS[projection]}"
        weight = self[f"{name}.weight"]
        if f"{layer}.{projection}.A" in self._updates:
            down, up = (self._updates[f"{layer}.{projection}.{part}"].astype(np.float32) for part in "AB")
            weight = weight + SCALE * up @ down
        return weight, self[f"{name}.bias"] if f"{name}.bias" in self._tensors else None


def build_writer(path: Path, updates: dict[str, np.ndarray], folder: Path) -> None:
    """From a GGUF file of the Qwen2 architecture to a folder that ctranslate2.Generator opens."""
    reader = gguf.GGUFReader(path)

    def field(name: str) -> Any:
        return reader.fields[name].contents()

    layers, heads = field("qwen2.block_count"), field("qwen2.attention.head_count")
    weights = _Weights(reader, updates)
    spec = transformer_spec.TransformerDecoderModelSpec.from_config(
        layers,
        heads,
        activation=common_spec.Activation.SWISH,
        pre_norm=True,
        ffn_glu=True,
        rms_norm=True,
        rotary_dim=0,
        rotary_interleave=False,
        rotary_base=field("qwen2.rope.freq_base"),
        num_heads_kv=field("qwen2.attention.head_count_kv"),
    )
    decoder = spec.decoder
    decoder.scale_embeddings = False
    decoder.embeddings.weight = weights["token_embd.weight"]
    _eight_bits(decoder.embeddings)
    decoder.projection.weight = decoder.embeddings.weight  # tied, as published
    decoder.projection.weight_scale = decoder.embeddings.weight_scale
    decoder.layer_norm.gamma = weights["output_norm.weight"]
    for number, layer in enumerate(decoder.layer):
        attention, network = layer.self_attention, layer.ffn
        attention.layer_norm.gamma = weights[f"blk.{number}.attn_norm.weight"]
        network.layer_norm.gamma = weights[f"blk.{number}.ffn_norm.weight"]
        seen = [weights.linear(number, f"self_attn.{part}_proj") for part in "qkv"]
        attention.linear[0].weight = np.concatenate([weight for weight, _ in seen])
        attention.linear[0].bias = np.concatenate([bias for _, bias in seen if bias is not None])
        attention.linear[1].weight, _ = weights.linear(number, "self_attn.o_proj")
        network.linear_0.weight, _ = weights.linear(number, "mlp.gate_proj")
        network.linear_0_noact.weight, _ = weights.linear(number, "mlp.up_proj")
        network.linear_1.weight, _ = weights.linear(number, "mlp.down_proj")
        _eight_bits(layer)
    tokens = field("tokenizer.ggml.tokens")
    spec.register_vocabulary(tokens)
    spec.config.layer_norm_epsilon = field("qwen2.attention.layer_norm_rms_epsilon")
    spec.config.unk_token = spec.config.bos_token = spec.config.eos_token = END
    spec.validate()
    spec.optimize()
    spec.save(str(folder))
    _tokenizer(tokens, field("tokenizer.ggml.merges"), field("tokenizer.ggml.token_type")).save(str(folder / "tokenizer.json"))


def _eight_bits(part: LayerSpec) -> None:
    """Each part by itself: as a whole, in 32 bits, the model would take more memory than many machines have."""
    part.validate()
    part.optimize(quantization="int8")


def _tokenizer(tokens: list[str], merges: list[str], types: list[int]) -> Tokenizer:
    """Pairs of bytes (Sennrich et al. 2016), as the file says them."""
    pairs = [(first, second) for first, second in (merge.split(" ") for merge in merges)]
    tokenizer = Tokenizer(models.BPE({token: number for number, token in enumerate(tokens)}, pairs))
    tokenizer.normalizer = normalizers.NFC()
    tokenizer.pre_tokenizer = pre_tokenizers.Sequence(
        [pre_tokenizers.Split(Regex(_SPLIT), "isolated"), pre_tokenizers.ByteLevel(add_prefix_space=False, use_regex=False)]
    )
    tokenizer.decoder = decoders.ByteLevel()
    tokenizer.add_special_tokens(
        [AddedToken(token, special=True, normalized=False) for token, kind in zip(tokens, types, strict=True) if kind == _CONTROL]
    )
    return tokenizer


def main(folder: Path, updates: Path = TAUGHT) -> None:
    """Make the model in the folder."""
    with np.load(updates) as kept:
        build_writer(folder / "model.gguf", dict(kept), folder)


if __name__ == "__main__":
    main(*map(Path, sys.argv[1:3]))
