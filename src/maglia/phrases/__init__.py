"""What is written in a line: read into an edit or a part. No widgets, no Qt."""
