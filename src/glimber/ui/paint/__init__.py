"""Painting: tokens, style, drawings onto QPainter, PDF and PNG."""
