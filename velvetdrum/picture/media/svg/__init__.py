"""SVG files as pictures: read safely, drawn at any size. Nothing in them is run, fetched or followed."""
