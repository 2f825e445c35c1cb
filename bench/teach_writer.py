"""Teach the writer: `python -m bench.teach_writer MODEL.gguf FOLDER` writes whole.npz and part-0.npz … for core/reading/writer/taught.

Needs PyTorch and Transformers, which the product does without, so that they are not among the pinned requirements. First the pairs of all
hands are learnt, then, from there, the labelled meetings: those of the other two parts for each part-N, so that every meeting can be written by
a writer that has not seen it, and all of them for the whole. Low-rank updates (Hu et al. 2021) of the upper layers; the loss is on the sentence
alone. What is not learnt is worked out in 8 bits, a scale a token and a scale a row, as it is when the product writes: the same numbers in half the
time. A state is kept in the folder every few minutes: started again, it goes on from there.
"""

from __future__ import annotations

import math
import random
import sys
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import torch
from torch import Tensor, nn
from torch.nn import functional
from transformers import AutoModelForCausalLM, AutoTokenizer

from bench.examples import Example, examples
from bench.meetings import PARTS
from core.reading.writer.model import END, FIRST_LAYER, PROJECTIONS, RANK, SCALE

RATE, WARM, DROP = 4e-4, 12, 0.05
TOKENS = 1400
"""Of a batch, padding included."""
NAMELESS = 0.25
"""How often the owner is left out of an action's heading: the product does not always know."""
PASSES = {"pairs": 0.5, "meetings": 1.0}
"""How often each example is seen: as much as two cores learn in an hour and a half."""
TITLES = 6
"""Of the titles of chapters every so manieth is taught: their passages are long, and a title is soon learnt."""
KEEP_EVERY = 180.0
"""Seconds between two states kept."""


class _Through(torch.autograd.Function):
    """Forward in 8 bits, backward by the weights that the 8 bits stand for."""

    @staticmethod
    def forward(ctx: Any, x: Tensor, packed: Any, weight: Tensor) -> Tensor:
        """(tokens, inputs) → (tokens, outputs)."""
        ctx.weight = weight
        return _eight(x, packed)

    @staticmethod
    def backward(ctx: Any, slope: Tensor) -> tuple[Tensor, None, None]:
        """(tokens, outputs) → (tokens, inputs)."""
        return slope @ ctx.weight, None, None


def _eight(x: Tensor, packed: Any) -> Tensor:
    """A scale a token: a few of this family's tokens are a thousand times the others, and one scale for all would leave those nothing."""
    scale = x.abs().amax(1, keepdim=True).clamp_min(1e-9)
    return torch.ops.quantized.linear_dynamic(x / scale, packed, False) * scale


class Frozen(nn.Module):
    """A linear layer as published, in 8 bits; `slopes`: something below it is learnt."""

    def __init__(self, base: nn.Linear, slopes: bool):
        super().__init__()
        weight = base.weight.detach()
        scales = weight.abs().amax(1).double() / 127
        rows = torch.quantize_per_channel(weight, scales, torch.zeros(len(scales), dtype=torch.long), 0, torch.qint8)
        self.packed = torch.ops.quantized.linear_prepack(rows, None)
        self.weight = weight if slopes else None
        self.bias, self.shape = base.bias, weight.shape

    def forward(self, x: Tensor) -> Tensor:
        """(…, inputs) → (…, outputs)."""
        flat = x.reshape(-1, x.shape[-1])
        out = _eight(flat, self.packed) if self.weight is None else _Through.apply(flat, self.packed, self.weight)
        out = out.reshape(*x.shape[:-1], -1)
        return out if self.bias is None else out + self.bias


class Low(nn.Module):
    """A linear layer as published, with a low-rank update that is learnt."""

    def __init__(self, base: Frozen):
        super().__init__()
        self.base = base
        outputs, inputs = base.shape
        self.A = nn.Parameter(torch.randn(RANK, inputs) / math.sqrt(inputs))
        self.B = nn.Parameter(torch.zeros(outputs, RANK))

    def forward(self, x: Tensor) -> Tensor:
        """(…, inputs) → (…, outputs)."""
        update = functional.linear(functional.linear(functional.dropout(x, DROP, self.training), self.A), self.B)
        return self.base(x) + SCALE * update


def opened(path: Path) -> tuple[nn.Module, AutoTokenizer, dict[str, Low]]:
    """The model with updates in its upper layers, by the names of core.reading.writer.model."""
    model = AutoModelForCausalLM.from_pretrained(path.parent, gguf_file=path.name, torch_dtype=torch.float32)
    tokenizer = AutoTokenizer.from_pretrained(path.parent, gguf_file=path.name)
    model.requires_grad_(False)
    low: dict[str, Low] = {}
    for number, layer in enumerate(model.model.layers):
        for name in PROJECTIONS:
            holder, short = layer.get_submodule(name.rpartition(".")[0]), name.rpartition(".")[2]
            base = Frozen(getattr(holder, short), slopes=number >= FIRST_LAYER)
            setattr(holder, short, low.setdefault(f"{number}.{name}", Low(base)) if number >= FIRST_LAYER else base)
    return model, tokenizer, low


def _tokens(example: Example, tokenizer: AutoTokenizer, nameless: bool) -> tuple[list[int], int]:
    """Tokens of passage and sentence, and how many are the passage's."""
    passage = example.passage
    text = passage.text
    if nameless and passage.owner:
        text = text.replace(f" for {passage.owner}", "", 1)
    asked = tokenizer(text, add_special_tokens=False).input_ids
    return [*asked, *tokenizer(" " + example.text, add_special_tokens=False).input_ids, tokenizer.convert_tokens_to_ids(END)], len(asked)


def batches(taught: Sequence[Example], tokenizer: AutoTokenizer, passes: float, seed: int) -> list[list[tuple[list[int], int]]]:
    """Everything once a pass, examples of like length together, in an order that the seed decides; of a part of a pass, so many batches."""
    draw, out = random.Random(seed), []
    for number in range(math.ceil(passes)):
        rows = [_tokens(one, tokenizer, draw.random() < NAMELESS) for one in taught]
        rows.sort(key=lambda row: len(row[0]) + 25 * draw.random())
        cut, batch = [], []
        for row in rows:
            if batch and (len(batch) + 1) * max(len(row[0]), *(len(one[0]) for one in batch)) > TOKENS:
                cut.append(batch)
                batch = []
            batch.append(row)
        cut.append(batch)
        draw.shuffle(cut)
        out += cut[: round(len(cut) * (passes - number))]
    return out


def loss_of(model: nn.Module, batch: Sequence[tuple[list[int], int]]) -> Tensor:
    """Mean over the tokens of the sentences; the logits of nothing else are worked out."""
    ids = nn.utils.rnn.pad_sequence([torch.tensor(row) for row, _ in batch], batch_first=True)
    lengths = torch.tensor([len(row) for row, _ in batch])
    mask = torch.arange(ids.shape[1])[None] < lengths[:, None]
    states = model.model(input_ids=ids, attention_mask=mask.long()).last_hidden_state
    asked = torch.tensor([count for _, count in batch])
    places = torch.arange(ids.shape[1])[None]
    told = (places >= asked[:, None] - 1) & (places < lengths[:, None] - 1)
    return functional.cross_entropy(model.lm_head(states[told]), ids.roll(-1, 1)[told])


def learn(name: str, model: nn.Module, low: dict[str, Low], steps: list, folder: Path) -> None:
    """Take the steps that are not taken yet, and keep the state now and then."""
    values = [value for one in low.values() for value in (one.A, one.B)]
    optimiser = torch.optim.AdamW(values, lr=RATE, weight_decay=0.01, betas=(0.9, 0.98))
    slope = torch.optim.lr_scheduler.LambdaLR(
        optimiser, lambda step: min(1.0, (step + 1) / WARM) * (0.1 + 0.9 * (1 + math.cos(math.pi * min(1.0, step / len(steps)))) / 2)
    )
    kept, first = folder / f"{name}.state", 0
    if kept.exists():
        state = torch.load(kept)
        first = state["step"]
        with torch.no_grad():
            for value, old in zip(values, state["values"], strict=True):
                value.copy_(old)
        optimiser.load_state_dict(state["optimiser"])
        slope.load_state_dict(state["slope"])
    model.train()
    said = saved = time.monotonic()
    losses, seen = [], 0
    for step in range(first, len(steps)):
        loss = loss_of(model, steps[step])
        optimiser.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(values, 1.0)
        optimiser.step()
        slope.step()
        losses.append(loss.item())
        seen += sum(len(row) for row, _ in steps[step])
        now = time.monotonic()
        if now - said > 30:
            print(f"{name} {step + 1}/{len(steps)}: loss {np.mean(losses[-40:]):.3f}, {seen / (now - said):.0f} tokens/s", file=sys.stderr, flush=True)
            said, seen = now, 0
        if now - saved > KEEP_EVERY:
            state = {"step": step + 1, "values": values, "optimiser": optimiser.state_dict(), "slope": slope.state_dict()}
            torch.save(state, kept.with_suffix(".new"))
            kept.with_suffix(".new").rename(kept)
            saved = now
    np.savez_compressed(folder / f"{name}.npz", **learnt(low))
    kept.unlink(missing_ok=True)


def learnt(low: dict[str, Low]) -> dict[str, np.ndarray]:
    """The updates, in half precision."""
    return {f"{name}.{part}": getattr(one, part).detach().numpy().astype(np.float16) for name, one in low.items() for part in "AB"}


def _go_on_from(low: dict[str, Low], path: Path) -> None:
    with np.load(path) as kept, torch.no_grad():
        for name, one in low.items():
            for part in "AB":
                getattr(one, part).copy_(torch.from_numpy(kept[f"{name}.{part}"].astype(np.float32)))


def _courses(everything: list[Example]) -> Iterator[tuple[str, list[Example], float]]:
    """Name, what is taught, and how often; the part set aside first, so that it can be measured first."""
    yield "pairs", [one for one in everything if one.part is None], PASSES["pairs"]
    ours = [one for one in everything if one.part is not None and one.passage.kind != "chapter"]
    ours += [one for one in everything if one.passage.kind == "chapter"][::TITLES]
    yield f"part-{PARTS - 1}", [one for one in ours if one.part != PARTS - 1], PASSES["meetings"]
    yield "whole", ours, PASSES["meetings"]
    for part in range(PARTS - 1):
        yield f"part-{part}", [one for one in ours if one.part != part], PASSES["meetings"]


def main(path: Path, folder: Path, wanted: Sequence[str]) -> None:
    """Teach what is not there yet; `wanted` names the courses, all of them where it is empty."""
    torch.set_flush_denormal(True)
    torch.backends.quantized.engine = "fbgemm"
    torch.manual_seed(0)
    folder.mkdir(parents=True, exist_ok=True)
    model, tokenizer, low = opened(path)
    for number, (name, taught, passes) in enumerate(_courses(examples())):
        if (folder / f"{name}.npz").exists() or (wanted and name not in wanted):
            continue
        if name != "pairs":
            _go_on_from(low, folder / "pairs.npz")
        learn(name, model, low, batches(taught, tokenizer, passes, number), folder)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3:])
