"""Stand-ins: small simulated receiving systems, each with code of its own for its limits."""
