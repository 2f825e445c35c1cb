from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

from core.hearing import Ear
from core.media import RATE, decode, open_sound
from core.reading import READING, Encoder
from tests.sounds import write_wav

# How long an example takes is a matter of the machine, not of the code.
settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")

ROOT = Path(__file__).resolve().parent.parent
MODELS = Path(os.environ["AFTERSHOWER_MODELS"])


@pytest.fixture(scope="session")
def ear() -> Ear:
    """The models, loaded once."""
    return Ear(MODELS)


@pytest.fixture(scope="session")
def encoder() -> Encoder:
    """The models that read, loaded once."""
    return Encoder(MODELS / READING)


@pytest.fixture(scope="session")
def talk(tmp_path_factory) -> Path:
    """The first 48 seconds of a demo meeting as WAV: three voices, about boilers."""
    folder = tmp_path_factory.mktemp("talk")
    decode(ROOT / "demo/sound/08-heating-call.opus", folder / "whole.wav")
    write_wav(folder / "talk.wav", np.asarray(open_sound(folder / "whole.wav")[: 48 * RATE]))
    return folder / "talk.wav"
