"""Showings: what a client sees of a job, and what they answer."""
