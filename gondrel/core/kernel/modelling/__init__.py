"""Bodies made anew: outlines, prisms, Booleans, fillets; placements made rigid."""
