"""Printer profiles: the made-up one that ships and those that people bring, for soft proofs."""
