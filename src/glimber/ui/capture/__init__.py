"""From physical keys to strokes: Qt key events, keyboard grab, devices."""
