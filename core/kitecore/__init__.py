"""kitecore: how Kite Glass computes pictures. No web, no database; usable alone (``python -m kitecore``)."""

__version__ = "0.1.0"
