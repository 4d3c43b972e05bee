"""At home on the desktop: entry, icons, type of file, small pictures, words for the shell."""
