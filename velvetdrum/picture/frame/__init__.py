"""A project at a time as pixels: how its settings stand then, and how its layers are laid over each other."""
