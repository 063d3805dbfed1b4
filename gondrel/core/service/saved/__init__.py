"""The saved document: what is stored in which version, and how an older one becomes a newer one."""
