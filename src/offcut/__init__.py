"""Offcut turns one flattened film back into its shots."""

import os

# Our matrices are small; helper threads of the linear algebra library would only spin beside the
# decoders. Must be set before NumPy is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
