"""What a number is: records, measures as people write them, densities."""
