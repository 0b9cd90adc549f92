"""Loops over pixels, compiled once for this machine.

Importing a module of this package loads its loops from the kept folder, or compiles them, which takes a second each:
`python -m velvetdrum.picture.raster.kernels` does that ahead of the first frame. Pixels are 32-bit words, 0xaarrggbb,
premultiplied; an area of a larger picture is given as its words from its first pixel on, with the step to the next row.
"""
