"""Drawings and sheets, once: shapes with style tokens, pages in millimetres, writers to SVG and PDF."""
