"""Count: what the day takes, drawn."""
