"""What tallies and studies are written as: in lists and on paper."""
