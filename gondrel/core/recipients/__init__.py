"""Recipients: what the other side can read and keeps, and small simulated systems to try it on."""
