"""Worker processes: kernel work out of the application's own process."""
