"""Calibration: synthetic keepers run synthetic tanks of two worlds, the forecast is asked, and scored."""
