"""The outside world: a probe and a mail server, each one small Protocol with a client, and stand-ins that ship."""
