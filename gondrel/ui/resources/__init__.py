"""Fonts and icons that ship with the application."""
