"""Gondrel: moves part and assembly models between modelling systems and proves what came across."""

__all__ = ["__version__"]
__version__ = "0.1.0"
