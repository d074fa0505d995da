"""Why something is wrong: evidence from the log, causes ranked by it, checks that tell them apart, first aid."""
