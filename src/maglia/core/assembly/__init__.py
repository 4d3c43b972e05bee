"""From the piece to the flat truth: every physical part and every joint."""
