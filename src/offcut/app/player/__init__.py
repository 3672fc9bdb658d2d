"""Showing frames: fetching pictures off the interface thread, and playing."""
