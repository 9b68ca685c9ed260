"""`python -m tallmast.instruments.practice`: the practice bench alone, for other programs to talk to."""

from __future__ import annotations

import threading

from .server import PracticeServer


def main() -> None:
    server = PracticeServer()
    for instrument in server.instruments:
        print(f"{instrument.scpi.name:20} {instrument.address}", flush=True)
    print("Ctrl+C stops it.", flush=True)
    try:
        threading.Event().wait()
    except KeyboardInterrupt:
        server.stop()


if __name__ == "__main__":
    main()
