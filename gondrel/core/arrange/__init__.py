"""Arranging: changes of structure, names, properties and looks, each making a new model."""
