"""Finished files: how they are written, what is around the picture, what a print needs."""
