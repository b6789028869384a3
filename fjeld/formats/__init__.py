"""Bytes to values and back: the job file, the lists, the netlist.

Readers trust nothing: sizes are limited, every error names the place in one line.
"""
