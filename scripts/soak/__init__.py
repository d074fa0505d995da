"""What wears a program down: kills, the same thing sent twice at once, damaged files, many writers."""
