"""How this process keeps memory that is free again."""

from __future__ import annotations

import ctypes

#: glibc's name for the size from which on memory is taken from the system, and given back to it, block by block.
_M_MMAP_THRESHOLD = -3
_LARGE_BYTES = 1 << 20


def give_back_large_blocks() -> bool:
    """Have arrays of more than a megabyte given back to the system as soon as nobody needs them; says whether that is so now.

    Otherwise glibc raises that size to 32 MB as it sees larger blocks come and go, and what is kept for long (cells of stages,
    parts of networks) comes to lie between what is free: a web process that is used for hours grows by a gigabyte nobody uses.
    """
    try:
        return bool(ctypes.CDLL(None).mallopt(_M_MMAP_THRESHOLD, _LARGE_BYTES))
    except (AttributeError, OSError):
        # Another C library, which has ways of its own.
        return False
