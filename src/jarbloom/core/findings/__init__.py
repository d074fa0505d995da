"""What can be found about a tank at a moment: one rule a function, one row of data/findings.toml beside it."""
