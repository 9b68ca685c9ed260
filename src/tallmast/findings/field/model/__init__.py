"""One model of the day: every note, whatever it was written in, weighed at once.

`noted` lists them; `level` is the level before any display, a sum of all that is not seen; `kinds` says how likely each kind of note
is at a level; `day` puts both together and is asked; `mistakes` weighs other models of the same notes.
"""
