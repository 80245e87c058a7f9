"""Results set beside their sources: where they lie, how they differ, what they lost or invented."""
