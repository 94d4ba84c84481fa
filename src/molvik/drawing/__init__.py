"""Drawings as values: plain shapes with texts and the things they stand for.

Made here without a window; painted by Qt (``desktop/widgets/painting.py``) and written as SVG
(``files/svg.py``).
"""
