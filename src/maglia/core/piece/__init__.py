"""What the maker decides: runs, rows, places, wishes."""
