"""Jar Bloom: forecasts the nitrifying colony of a new aquarium and says what to do next."""

__version__ = "0.1.0"
