"""The guide: a book of short pages (Markdown, in `pages`), the same in the window and in docs."""
