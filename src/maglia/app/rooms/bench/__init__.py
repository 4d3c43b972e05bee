"""The Bench: design the piece on its form and along the half-rule."""
