"""Look-up tables: the shelf of .cube files that people bring."""
