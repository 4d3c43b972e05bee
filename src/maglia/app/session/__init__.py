"""The open piece: its history, cursor and results."""
