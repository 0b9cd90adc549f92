"""`python -m velvetdrum` is the command line."""

from velvetdrum.cli import main

main()
