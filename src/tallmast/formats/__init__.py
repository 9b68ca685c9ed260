"""Open files in and out. A wrong file gets a `FormatError` that names the line; what is odd but readable gets a note."""
