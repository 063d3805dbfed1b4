"""Entering the kernel: safe calls, shapes as blobs, arrays."""
