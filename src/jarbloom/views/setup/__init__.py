"""Setting up: fill run, equipment, school, probe."""
