"""The Qt application: shell, theme, and one package a rung. A view paints; it never computes."""
