"""Progress and cancellation of long work; knows no thread, process or widget."""

from gondrel.core.work.progress import SILENT, Cancelled, Progress

__all__ = ["SILENT", "Cancelled", "Progress"]
