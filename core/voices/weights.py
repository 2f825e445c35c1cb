"""Weights out of a PyTorch archive, without PyTorch: a ZIP file of a pickle and one raw file a tensor."""

from __future__ import annotations

import io
import pickle
import zipfile
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np

_TYPES = {"FloatStorage": np.dtype("<f4"), "LongStorage": np.dtype("<i8")}


class _Reader(pickle.Unpickler):
    """Knows how to make tensors and mappings of them, and nothing else: a file that asks for other code is refused."""

    def __init__(self, archive: zipfile.ZipFile, folder: str):
        super().__init__(io.BytesIO(archive.read(f"{folder}/data.pkl")))
        self._archive, self._folder = archive, folder

    def find_class(self, module: str, name: str) -> Any:
        """The few names that weights need."""
        if (module, name) == ("collections", "OrderedDict"):
            return OrderedDict
        if (module, name) == ("torch._utils", "_rebuild_tensor_v2"):
            return _tensor
        if module == "torch" and name in _TYPES:
            return _TYPES[name]
        raise pickle.UnpicklingError(f"weights do not hold {module}.{name}")

    def persistent_load(self, pid: tuple) -> np.ndarray:
        """A storage: ("storage", type, file, device, length)."""
        _, dtype, file, _, length = pid
        return np.frombuffer(self._archive.read(f"{self._folder}/data/{file}"), dtype, length)


def _tensor(storage: np.ndarray, offset: int, shape: tuple[int, ...], stride: tuple[int, ...], *_: object) -> np.ndarray:
    strides = [step * storage.itemsize for step in stride]
    return np.lib.stride_tricks.as_strided(storage[offset:], shape, strides).copy()


def read_weights(path: Path) -> dict[str, np.ndarray]:
    """Name → array, of a checkpoint that is a mapping of tensors or holds one as `state_dict`.

    Raises pickle.UnpicklingError when the file asks for anything but tensors and mappings.
    """
    with zipfile.ZipFile(path) as archive:
        folder = archive.namelist()[0].split("/")[0]
        loaded = _Reader(archive, folder).load()
    return dict(loaded.get("state_dict", loaded))
