"""Figures of bodies: mass, deviation, overlap, where material lies."""
