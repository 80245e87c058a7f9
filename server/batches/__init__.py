"""Many pictures delivered in one go."""
