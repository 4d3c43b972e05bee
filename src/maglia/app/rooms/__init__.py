"""The rooms of the window, one package each."""
