"""Geometry of what is drawn: scales, charts, cross-sections."""
