"""The command line."""

from kitecore.cli.commands import main

__all__ = ["main"]
