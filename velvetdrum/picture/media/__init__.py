"""What people bring: pictures, SVG files and clips, read, kept and scaled."""
