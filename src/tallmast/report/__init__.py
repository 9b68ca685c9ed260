"""A finding for somebody else: the report as HTML and PDF, and the data as open files."""
