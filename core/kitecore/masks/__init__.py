"""Where a step works, and how strongly."""
