"""How this process keeps memory that is free again."""

from __future__ import annotations

import ctypes
import os
import sys

#: Large blocks are taken from the system in pages of 2 MB where it has such: the first run of a network on a larger picture
#: than before waits for 4,000 of these instead of 84,000 small ones, which took as long as a third of the run. glibc reads it
#: when a process begins.
LARGE_PAGES = {"GLIBC_TUNABLES": "glibc.malloc.hugetlb=1"}
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


def begin_with_large_pages() -> None:
    """Begin this process anew with :data:`LARGE_PAGES`, unless its environment says how memory is to be taken."""
    if sys.platform == "linux" and not os.environ.keys() & LARGE_PAGES.keys():
        os.execve(sys.executable, [sys.executable, *sys.argv], os.environ | LARGE_PAGES)
