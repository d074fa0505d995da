"""The record of a tank over days or years, drawn."""
