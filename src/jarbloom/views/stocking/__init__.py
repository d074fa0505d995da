"""Animals: the plan and its board, the finder, arrival, stock book."""
