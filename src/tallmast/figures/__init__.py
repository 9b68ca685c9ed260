"""The pictures, painted with QPainter from findings: for the window and for the report alike. Nothing is computed here
but where things go on the sheet."""
