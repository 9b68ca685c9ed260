"""Instruments: one small driver interface, a driver for those that speak SCPI, and the practice bench."""
