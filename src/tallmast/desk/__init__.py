"""The Qt application: shell, theme, and one package a rung. A view paints; it never computes."""

import gc

# A start makes a great many objects and hardly any rubbish: looking through them at every 700 new ones, as Python does
# by itself, costs a tenth of it.
gc.set_threshold(50_000, 20, 20)
