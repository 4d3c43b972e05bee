"""Make: one step at a time, with both hands full."""
