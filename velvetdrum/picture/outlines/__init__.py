"""Base shapes: the curves that figures are laid out on, by arc length."""
