"""What the machine has that others must share."""

import os

MEMORY = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
"""Bytes of memory."""
