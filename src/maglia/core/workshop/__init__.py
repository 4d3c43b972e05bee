"""What belongs to the maker and not to one piece: tray, lots, starting points."""
