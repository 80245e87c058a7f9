"""kitecore: how Kite Glass computes pictures. No web, no database; usable alone (``python -m kitecore``)."""

import logging

import pyvips

__version__ = "0.1.0"

# libvips remembers what it loaded by file name; a file replaced under the same name must be read again.
pyvips.cache_set_max(0)
# It reports faults twice, as errors and as warnings; the errors are enough.
logging.getLogger("pyvips").setLevel(logging.ERROR)
