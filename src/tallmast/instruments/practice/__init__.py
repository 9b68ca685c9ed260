"""The practice bench: simulated instruments with physics behind them, speaking SCPI on loopback."""
