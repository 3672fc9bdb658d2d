"""Turnover: plan what is handed over, check it, then write it."""
