"""What the hands have learned: predicted against measured, and what follows from it."""
