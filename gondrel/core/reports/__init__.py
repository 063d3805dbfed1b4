"""Findings and proofs as text and JSON: data in, text out."""
