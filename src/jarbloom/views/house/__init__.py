"""All tanks together: bench, schedule, waters."""
