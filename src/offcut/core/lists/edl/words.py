"""Words that both the reading and the writing of an EDL go by."""

from __future__ import annotations

BLACK = "BL"
RATE_COMMENT = "FRAME RATE:"
"""The comment of the first event that tells the rate; the format has no other place for it."""
MARKED_FOR = "MARKED FOR "
"""The comment after a locator that tells how many frames it marks; the format has only points."""
