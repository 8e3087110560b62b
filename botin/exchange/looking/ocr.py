"""Reads lines of print with a small network that ships in a package of its own; an optional extra of Botin."""

from __future__ import annotations

from collections.abc import Sequence
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from botin.core.errors import BotinError
from botin.core.looking.backs import Printed

HEIGHT = 48
WIDEST = 640
MODEL = "ch_PP-OCRv4_rec_infer.onnx"


class NoReaderError(BotinError):
    """The extra that reads print is not installed."""

    status = 422

    def __init__(self) -> None:
        super().__init__("Reading backs needs the extra “backs”, which is not installed here: run make backs.")


class LineReader:
    """Reads lines of print; one thread, so that cards can be read side by side.

    Raises
    ------
    NoReaderError
        When the extra is not installed.
    """

    def __init__(self) -> None:
        model = _model()
        try:
            import onnxruntime  # type: ignore[import-untyped, import-not-found, unused-ignore]  # noqa: PLC0415
        except ImportError as exc:
            raise NoReaderError from exc
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = options.inter_op_num_threads = 1
        options.log_severity_level = 3
        self._session: Any = onnxruntime.InferenceSession(str(model), options, providers=["CPUExecutionProvider"])
        self._input = self._session.get_inputs()[0].name
        letters = self._session.get_modelmeta().custom_metadata_map["character"].splitlines()
        self._letters = ["", *letters, " "]

    def read(self, cuts: Sequence[NDArray[np.uint8]]) -> list[Printed]:
        """Return what stands on each cut, and how sure each letter is (0 to 1), lines of like length together."""
        said = [Printed()] * len(cuts)
        order = sorted(range(len(cuts)), key=lambda at: cuts[at].shape[1] / max(1, cuts[at].shape[0]))
        for first in range(0, len(order), 6):
            some = order[first : first + 6]
            for at, words in zip(some, self._together([cuts[at] for at in some]), strict=True):
                said[at] = words
        return said

    def _together(self, cuts: Sequence[NDArray[np.uint8]]) -> list[Printed]:
        widths = [min(WIDEST, max(16, round(HEIGHT * cut.shape[1] / max(1, cut.shape[0])))) for cut in cuts]
        batch = np.zeros((len(cuts), 3, HEIGHT, max(widths)), np.float32)
        for at, (cut, width) in enumerate(zip(cuts, widths, strict=True)):
            small = cv2.resize(cut[:, :, ::-1], (width, HEIGHT), interpolation=cv2.INTER_LINEAR)
            batch[at, :, :, :width] = (small.transpose(2, 0, 1).astype(np.float32) / 255 - 0.5) / 0.5
        (chances,) = self._session.run(None, {self._input: batch})
        return [self._said(one) for one in chances]

    def _said(self, chances: NDArray[np.float32]) -> Printed:
        """Read the likeliest letters; the same one again without a gap is one (CTC: Graves and others, 2006)."""
        best = chances.argmax(axis=1)
        new = np.concatenate(([True], best[1:] != best[:-1])) & (best != 0)
        letters = [
            (self._letters[letter], float(sure))
            for letter, sure in zip(best[new], chances.max(axis=1)[new], strict=True)
        ]
        while letters and letters[0][0] == " ":
            letters.pop(0)
        while letters and letters[-1][0] == " ":
            letters.pop()
        return Printed("".join(letter for letter, _ in letters), tuple(sure for _, sure in letters))


def _model() -> Path:
    found = find_spec("rapidocr_onnxruntime")
    for folder in (found.submodule_search_locations or ()) if found else ():
        path = Path(folder) / "models" / MODEL
        if path.is_file():
            return path
    raise NoReaderError
