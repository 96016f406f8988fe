"""Routes: parse, call one service, render."""
