"""The Seams view: find, judge, mend."""
