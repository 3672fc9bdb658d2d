"""The Turnover view: what goes, what it becomes, what a check found and what will be written."""
