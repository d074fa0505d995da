"""What people say in their own words, put into the words of the log line, where it can mean one thing only."""
