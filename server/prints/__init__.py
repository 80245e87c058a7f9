"""What prints need, told by the API."""
