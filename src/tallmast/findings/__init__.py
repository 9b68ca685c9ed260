"""Judgement: evidence in, a Finding out. Nothing here touches a file, a socket, a clock or chance."""
