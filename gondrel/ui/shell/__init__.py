"""The window and what it is made of: band, commands, search, notices, pages."""
