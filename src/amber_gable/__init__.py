"""Amber Gable: measuring, specifying, timing and recording exterior house painting."""

__version__ = "0.1.0"
