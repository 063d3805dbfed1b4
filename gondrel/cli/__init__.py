"""The command line over the service layer."""
