"""A keeper's old notes: what the columns of a table mean, and what each row becomes."""
