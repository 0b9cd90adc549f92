"""`python -m velvetdrum.picture.raster.kernels` compiles all loops, where that was not done before."""

from velvetdrum.picture.raster.kernels.preparation import prepare

if __name__ == "__main__":
    prepare(lambda line: print(line, flush=True))
