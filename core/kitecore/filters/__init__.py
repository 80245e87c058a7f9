"""Methods on pixels that need no network: a file per method."""
