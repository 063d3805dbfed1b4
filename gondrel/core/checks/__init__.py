"""Checks: one small module for each in rules; they never change a model."""
