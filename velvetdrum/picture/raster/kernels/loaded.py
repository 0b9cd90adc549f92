"""All loops, loaded: for the process that workers are forked from, which then have them."""

from importlib import import_module

from velvetdrum.picture.raster.kernels import loop_modules

for _name in loop_modules():
    import_module(_name)
