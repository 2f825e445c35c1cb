"""The shape of the writer's model and of what it was taught."""

from __future__ import annotations

RANK, SCALE = 8, 2.0
"""Of the low-rank updates: weight + SCALE · B @ A, A of shape (RANK, inputs), B of shape (outputs, RANK)."""
FIRST_LAYER = 18
"""The layers below, of 28, are as published."""
PROJECTIONS = (
    "self_attn.q_proj",
    "self_attn.k_proj",
    "self_attn.v_proj",
    "self_attn.o_proj",
    "mlp.gate_proj",
    "mlp.up_proj",
    "mlp.down_proj",
)
"""The linear layers of a layer that are updated; an update's name is "LAYER.PROJECTION.A" or ".B"."""
END = "<|endoftext|>"
"""The token that a sentence ends with, as it is taught."""
