"""Figures of frames made calm. SciPy takes half a second to load: it is when it is first wanted."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def median_of(values: NDArray[np.floating], size: int) -> Floats:
    """Return the median of ``size`` frames about each, of (n,) or (n, k); the ends are held."""
    from scipy.ndimage import median_filter

    window = (size, *(1,) * (values.ndim - 1))
    return np.asarray(median_filter(values.astype(np.float64), size=window, mode="nearest"))


def mean_of(values: NDArray[np.floating], size: int) -> Floats:
    """Return the mean of ``size`` frames about each, of (n,) or (n, k); the ends are held."""
    from scipy.ndimage import uniform_filter1d

    return np.asarray(uniform_filter1d(values.astype(np.float64), size, axis=0, mode="nearest"))
