"""The drawing model and its output: shapes, text setting, paper, SVG."""
