"""What is read off an assembly without hanging it: lengths, counts, cuts, mass, wear."""
