"""Teach the sentence encoder to read meetings: `python -m bench.teach FOLDER` writes part-0.npz … for core/reading/taught.

Needs PyTorch (2.x, CPU), which the product does without, so that it is not among the pinned requirements; about an hour on two cores.
Each part is trained on the labelled meetings and series of the other two (bench.meetings), by low-rank updates of the encoder's weights
(Hu et al. 2021): blocks of turns in, for each turn the labels of core.reading.encoder.LABELS out; and, so that questions find the turns
that answer them, the labelled meetings' questions and the wording of their findings beside the turns they rest on. Before that, all parts
read the passages of eleven other hands as well, of which one label is known: what is common to many ways of talking is learnt from them, and
how rare findings are in a meeting is learnt from the meetings, last. `python -m bench.teach FOLDER PART …` teaches single parts.
"""

from __future__ import annotations

import json
import math
import random
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import torch
from tokenizers import Tokenizer
from torch import Tensor, nn
from torch.nn import functional

from bench.meetings import LABELLED, PARTS, part_of, part_of_series
from bench.teaching import learn, published
from core.reading.encoder import LABELS, WIDTH
from core.reading.network import SCALE

RANK, TOGETHER = 8, 6
BROAD, CLOSE = 2, 4
"""Epochs over passages and meetings, and then over meetings alone."""
DROP, HEAD_DROP = 0.1, 0.2
BLOCKS = (56, 120, 224, 224)
"""Tokens of a block, drawn anew for each meeting and epoch: short ones too, so that a memo of five turns is read as well."""
WEIGHT = torch.tensor([3.0, 2.0, 4.0, 3.0, 3.0])
"""How much more a turn counts that has a label than one that has not; few have."""
ASK, ASKED, SHARP, OF_WORDING = 0.15, 16, 20.0, 0.5
"""The weight of questions in the loss, how many a step, by how much likenesses are sharpened, the weight of a finding's wording as one."""
_GROUPS = {"decision": "decisions", "action": "actions", "question": "open_questions"}


@dataclass(frozen=True)
class Meeting:
    """A labelled meeting or passage: tokens of each turn, its labels, shape (turns, 5), NaN where it is not known, and questions with the
    turns that answer and a weight."""

    tokens: list[list[int]]
    labels: np.ndarray
    questions: list[tuple[list[int], set[int], float]]


def read_all(tokenizer: Tokenizer) -> tuple[list[tuple[int, Meeting]], list[Meeting]]:
    """Labelled meetings, each with the part it is of, and passages."""
    meetings = [(part_of(path.stem), json.loads(path.read_text(encoding="utf-8"))) for path in sorted(LABELLED.glob("*.json"))]
    for number, path in enumerate(sorted((LABELLED / "series").glob("*.json"))):
        meetings += [(part_of_series(number), meeting) for meeting in json.loads(path.read_text(encoding="utf-8"))["meetings"]]
    passages = [one for path in sorted((LABELLED / "pairs").glob("*.json")) for one in json.loads(path.read_text(encoding="utf-8"))]
    return (
        [(part, _meeting(meeting, tokenizer)) for part, meeting in meetings],
        [_passage(one, tokenizer) for one in passages if one["kind"] in _GROUPS],
    )


def _tokens(text: str, most: int, tokenizer: Tokenizer) -> list[int]:
    return tokenizer.encode(text, add_special_tokens=False).ids[:most]


def _turns(turns: Sequence[dict[str, str]], tokenizer: Tokenizer) -> list[list[int]]:
    return [[*_tokens(f"{turn['speaker'].split()[0].lower()} : {turn['text']}", 96, tokenizer), 102] for turn in turns]


def _question(text: str, tokenizer: Tokenizer) -> list[int]:
    return [101, *_tokens(text, 40, tokenizer), 102]


def _passage(one: dict[str, Any], tokenizer: Tokenizer) -> Meeting:
    """Of a passage it is known which turns its sentence rests on, and nothing of other kinds."""
    labels = np.full((len(one["lines"]), len(LABELS)), np.nan, np.float32)
    labels[:, LABELS.index(one["kind"])] = 0
    labels[one["evidence"], LABELS.index(one["kind"])] = 1
    if one["kind"] == "decision":
        labels[one["evidence"], LABELS.index("settled")] = 1
    return Meeting(
        _turns(one["lines"], tokenizer), labels, [(_question(one["text"], tokenizer), set(one["evidence"]), OF_WORDING)]
    )


def _meeting(data: dict[str, Any], tokenizer: Tokenizer) -> Meeting:
    gold = data["gold"]
    labels = np.zeros((len(data["turns"]), len(LABELS)), np.float32)
    for kind, group in _GROUPS.items():
        for item in gold[group]:
            labels[[turn - 1 for turn in item["turns"]], LABELS.index(kind)] = 1
    for item in gold["decisions"] + gold.get("superseded", []):
        labels[[turn - 1 for turn in item["turns"]], LABELS.index("settled")] = 1
    labels[[chapter["from_turn"] - 1 for chapter in gold["chapters"][1:]], LABELS.index("seam")] = 1
    asked = [(one["q"], one["turns"], 1.0) for one in data["ask"] if one["turns"]]
    asked += [(item["text"], item["turns"], OF_WORDING) for group in (*_GROUPS.values(), "superseded") for item in gold.get(group, [])]
    return Meeting(
        _turns(data["turns"], tokenizer),
        labels,
        [(_question(text, tokenizer), {turn - 1 for turn in turns}, weight) for text, turns, weight in asked],
    )


class Dense(nn.Module):
    """A linear layer as published, with a low-rank update that is learnt."""

    def __init__(self, weights: dict[str, np.ndarray], name: str):
        super().__init__()
        self.name = name
        self.weight = nn.Parameter(torch.from_numpy(weights[f"{name}.weight"].copy()), requires_grad=False)
        self.bias = nn.Parameter(torch.from_numpy(weights[f"{name}.bias"].copy()), requires_grad=False)
        outputs, inputs = self.weight.shape
        self.A = nn.Parameter(torch.randn(RANK, inputs) / math.sqrt(inputs))
        self.B = nn.Parameter(torch.zeros(outputs, RANK))

    def forward(self, x: Tensor) -> Tensor:
        """(…, inputs) → (…, outputs)."""
        update = functional.linear(functional.linear(x, self.A), self.B)
        return functional.linear(x, self.weight, self.bias) + SCALE * update


class Layer(nn.Module):
    """One of the encoder's six."""

    def __init__(self, weights: dict[str, np.ndarray], number: int):
        super().__init__()
        name = f"encoder.layer.{number}"
        self.query, self.key, self.value = (Dense(weights, f"{name}.attention.self.{part}") for part in ("query", "key", "value"))
        self.out = Dense(weights, f"{name}.attention.output.dense")
        self.inner, self.outer = Dense(weights, f"{name}.intermediate.dense"), Dense(weights, f"{name}.output.dense")
        self.first, self.second = _norm(weights, f"{name}.attention.output.LayerNorm"), _norm(weights, f"{name}.output.LayerNorm")
        self.drop = nn.Dropout(DROP)

    def forward(self, x: Tensor, mask: Tensor) -> Tensor:
        """(batch, tokens, 384) and which are tokens → the same shape."""
        heads = [part(x).unflatten(-1, (12, -1)).transpose(1, 2) for part in (self.query, self.key, self.value)]
        seen = functional.scaled_dot_product_attention(*heads, attn_mask=mask[:, None, None, :])
        x = self.first(x + self.drop(self.out(seen.transpose(1, 2).flatten(2))))
        return self.second(x + self.drop(self.outer(functional.gelu(self.inner(x)))))


class Network(nn.Module):
    """The encoder with its two heads: labels, and vectors that questions are compared with."""

    def __init__(self, weights: dict[str, np.ndarray]):
        super().__init__()
        self.words = nn.Embedding.from_pretrained(torch.from_numpy(weights["embeddings.word_embeddings.weight"].copy()))
        kind = weights["embeddings.token_type_embeddings.weight"][0]
        self.places = nn.Embedding.from_pretrained(torch.from_numpy(weights["embeddings.position_embeddings.weight"] + kind))
        self.norm = _norm(weights, "embeddings.LayerNorm")
        self.drop, self.head_drop = nn.Dropout(DROP), nn.Dropout(HEAD_DROP)
        self.layers = nn.ModuleList(Layer(weights, number) for number in range(6))
        self.head, self.ask = nn.Linear(2 * WIDTH, len(LABELS)), nn.Linear(2 * WIDTH, WIDTH)
        nn.init.zeros_(self.ask.weight)
        nn.init.zeros_(self.ask.bias)

    def states(self, ids: Tensor, mask: Tensor) -> Tensor:
        """(batch, tokens) → (batch, tokens, 384)."""
        x = self.drop(self.norm(self.words(ids) + self.places.weight[: ids.shape[1]]))
        for layer in self.layers:
            x = layer(x, mask)
        return x

    def turns(self, ids: Tensor, mask: Tensor, pool: Tensor) -> tuple[Tensor, Tensor]:
        """pool: (batch, turns, tokens), rows that sum to 1 over a turn's tokens → logits and vectors of the turns."""
        x = self.states(ids, mask)
        mean, first = pool @ x, (pool > 0).float().argmax(-1)
        both = torch.cat([mean, torch.gather(x, 1, first[..., None].expand(-1, -1, WIDTH))], -1)
        return self.head(self.head_drop(both)), functional.normalize(mean + self.ask(both), dim=-1)

    def questions(self, rows: Sequence[list[int]]) -> Tensor:
        """Tokens of questions → vectors, (questions, 384)."""
        ids, mask = padded(rows)
        weight = mask[..., None].float()
        return functional.normalize((self.states(ids, mask) * weight).sum(1) / weight.sum(1), dim=-1)

    def learnt(self) -> dict[str, np.ndarray]:
        """What core.reading.network and core.reading.encoder need."""
        heads = {
            f"{name}.{part}": getattr(getattr(self, name), part).detach().numpy() for name in ("head", "ask") for part in ("weight", "bias")
        }
        return updates_of(self) | {name: value.astype(np.float16 if name.startswith("ask") else np.float32) for name, value in heads.items()}


def updates_of(network: nn.Module) -> dict[str, np.ndarray]:
    """The low-rank updates, by layer."""
    layers = [one for one in network.modules() if isinstance(one, Dense)]
    return {f"{one.name}.{part}": getattr(one, part).detach().numpy().astype(np.float16) for one in layers for part in "AB"}


def _norm(weights: dict[str, np.ndarray], name: str) -> nn.LayerNorm:
    norm = nn.LayerNorm(WIDTH, eps=1e-12)
    norm.load_state_dict({part: torch.from_numpy(weights[f"{name}.{part}"].copy()) for part in ("weight", "bias")})
    return norm.requires_grad_(False)


def padded(rows: Sequence[list[int]]) -> tuple[Tensor, Tensor]:
    """Rows of one length, (rows, tokens), and which of them are tokens."""
    ids = nn.utils.rnn.pad_sequence([torch.tensor(row) for row in rows], batch_first=True)
    lengths = torch.tensor([len(row) for row in rows])
    return ids, torch.arange(ids.shape[1])[None] < lengths[:, None]


Block = tuple[Meeting, int, int]


def _blocks(meetings: Sequence[Meeting]) -> Iterator[list[Block]]:
    """All turns of an epoch, cut into blocks at other places each time; blocks of like length come together."""
    cut: list[Block] = []
    for meeting in meetings:
        size = random.choice(BLOCKS)
        first, room = 0, random.randint(1, size)
        while first < len(meeting.tokens):
            last, total = first, 1
            while last < len(meeting.tokens) and (total + len(meeting.tokens[last]) <= room or last == first):
                total += len(meeting.tokens[last])
                last += 1
            cut.append((meeting, first, last))
            first, room = last, size
    cut.sort(key=lambda block: sum(map(len, block[0].tokens[block[1] : block[2]])) + 60 * random.random())
    batches = [cut[i : i + TOGETHER] for i in range(0, len(cut), TOGETHER)]
    random.shuffle(batches)
    yield from batches


def _loss(network: Network, batch: list[Block]) -> Tensor:
    rows = [[101, *(token for turn in meeting.tokens[a:b] for token in turn)] for meeting, a, b in batch]
    ids, mask = padded(rows)
    most = max(b - a for _, a, b in batch)
    pool, labels, there = (
        torch.zeros(len(batch), most, ids.shape[1]),
        torch.full((len(batch), most, len(LABELS)), torch.nan),
        torch.zeros(len(batch), most),
    )
    for row, (meeting, a, b) in enumerate(batch):
        at = 1
        for turn in range(a, b):
            length = len(meeting.tokens[turn])
            pool[row, turn - a, at : at + length] = 1 / length
            at += length
        labels[row, : b - a], there[row, : b - a] = torch.from_numpy(meeting.labels[a:b]), 1
    logits, vectors = network.turns(ids, mask, pool)
    known = ~labels.isnan()
    each = functional.binary_cross_entropy_with_logits(logits, labels.nan_to_num(), pos_weight=WEIGHT, reduction="none")
    loss = (each * known).sum() / known.sum()
    asked = [
        (row, *question)
        for row, (meeting, a, b) in enumerate(batch)
        for question in meeting.questions
        if any(a <= turn < b for turn in question[1])
    ]
    if not asked:
        return loss
    asked = random.sample(asked, min(ASKED, len(asked)))
    alike = torch.einsum("qd,btd->qbt", network.questions([tokens for _, tokens, _, _ in asked]), vectors)
    chances = torch.log_softmax((SHARP * alike).masked_fill(there[None] == 0, -1e4).flatten(1), 1).unflatten(1, (len(batch), most))
    right = torch.zeros(alike.shape, dtype=torch.bool)
    for number, (row, _, answers, _) in enumerate(asked):
        _, a, b = batch[row]
        right[number, row, [turn - a for turn in answers if a <= turn < b]] = True
    missed = -torch.logsumexp(chances.masked_fill(~right, -1e4).flatten(1), 1)
    weight = torch.tensor([weight for *_, weight in asked])
    return loss + ASK * (missed * weight).sum() / weight.sum()


def teach(meetings: Sequence[Meeting], passages: Sequence[Meeting], weights: dict[str, np.ndarray], seed: int) -> Network:
    """A network trained on passages and meetings."""
    torch.manual_seed(seed)
    random.seed(seed)
    network = Network(weights)
    heads = [*network.head.parameters(), *network.ask.parameters()]
    updates = [value for one in network.modules() if isinstance(one, Dense) for value in (one.A, one.B)]
    epochs = [[*passages, *meetings]] * BROAD + [meetings] * CLOSE
    learn(network, heads, updates, lambda epoch: list(_blocks(epochs[epoch])), len(epochs), lambda batch: _loss(network, batch))
    return network


def main(folder: Path, parts: Sequence[int]) -> None:
    """Teach a network for each of these parts of the labelled meetings."""
    weights, tokenizer = published()
    meetings, passages = read_all(tokenizer)
    folder.mkdir(parents=True, exist_ok=True)
    for part in parts:
        print(f"part {part}", file=sys.stderr)
        network = teach([meeting for of, meeting in meetings if of != part], passages, weights, seed=part)
        np.savez_compressed(folder / f"part-{part}.npz", **network.learnt())


if __name__ == "__main__":
    main(Path(sys.argv[1]), [int(part) for part in sys.argv[2:]] or range(PARTS))
