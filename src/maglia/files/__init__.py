"""Open formats in and out: pieces and networks as JSON, lists as CSV."""
