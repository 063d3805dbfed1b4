"""Progress and cancellation of long work, and a second process for it; knows no thread or widget."""

from gondrel.core.work.aside import Aside, begin_aside
from gondrel.core.work.progress import SILENT, Cancelled, Progress
from gondrel.core.work.sharing import share_work

__all__ = ["SILENT", "Aside", "Cancelled", "Progress", "begin_aside", "share_work"]
