"""Drawing: geometry and states to SVG, for pages and documents alike. Pure; knows no page."""
