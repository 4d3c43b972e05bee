"""Log: what was made, how it came out, and what the hands have learned."""
