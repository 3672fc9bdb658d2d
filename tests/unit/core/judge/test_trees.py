"""The forests: read by bits they say what walking down every tree says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from offcut.core.errors import JudgeError
from offcut.core.judge import trees as trees_module
from offcut.core.judge.trees import Trees, trees_named


def walked(trees: Trees, row: np.ndarray) -> float:
    """Go down every tree by hand: the leaves left after every node has spoken, the first one."""
    total = trees.base
    for tree in range(len(trees.feature)):
        left = set(range(16))
        for node in range(trees.feature.shape[1]):
            if row[trees.feature[tree, node]] > trees.threshold[tree, node]:
                gone = int(trees.gone[tree, node])
                left -= {leaf for leaf in left if gone >> leaf & 1}
        total += float(trees.value[tree, min(left)])
    return trees.slope * total + trees.offset


@pytest.mark.parametrize("name", ["cut", "gradual"])
def test_the_bits_say_what_the_trees_say(name: str) -> None:
    trees = trees_named(name)
    rows = np.random.default_rng(1).uniform(0, 40, (12, int(trees.feature.max()) + 1))
    rows = rows.astype(np.float32)
    told = trees.odds(rows, trees.names)
    for row, odds in zip(rows, told, strict=True):
        assert odds == pytest.approx(walked(trees, row), abs=1e-4)


def test_a_tree_of_three_leaves_goes_left_at_the_threshold_itself() -> None:
    trees = Trees(
        feature=np.array([[0, 1]], np.int32),
        threshold=np.array([[5.0, 2.0]], np.float32),
        gone=np.array([[0b011, 0b001]], np.uint16),
        value=np.array([[1.0, 2.0, 3.0, *[0.0] * 13]]),
        base=10.0,
        slope=1.0,
        offset=0.0,
        names=("one", "two"),
    )
    rows = np.array([[5, 2], [5, 3], [6, 0], [6, 9]], np.float32)
    assert trees.odds(rows, trees.names).tolist() == [11.0, 12.0, 13.0, 13.0]


def test_trees_are_only_asked_with_the_figures_they_were_trained_on() -> None:
    trees = trees_named("cut")
    rows = np.zeros((1, len(trees.names)), np.float32)
    with pytest.raises(JudgeError, match="without step; new: stride"):
        trees.odds(rows, ("stride", *trees.names[1:]))
    with pytest.raises(JudgeError, match="in another order"):
        trees.odds(rows, trees.names[::-1])


def test_a_file_without_the_names_of_its_figures_is_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with np.load(trees_module._FILE) as data:
        arrays = {name: data[name] for name in data.files if name != "cut_names"}
    np.savez(tmp_path / "judge.npz", **arrays)
    monkeypatch.setattr(trees_module, "_FILE", tmp_path / "judge.npz")
    with pytest.raises(JudgeError, match=r"judge\.npz: the judge's numbers cannot be read"):
        trees_named.__wrapped__("cut")
