"""Regions of pictures, computed when asked for: sizes, pixels, stages, caches, strips."""
