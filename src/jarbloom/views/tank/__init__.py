"""One tank today: now, outlook, upset desk, log book."""
