"""The studio: Flask pages and a JSON interface over the core. Nothing is computed here."""

WORKERS_IMPORT = (
    "velvetdrum.studio.workers.tasks",
    "velvetdrum.studio.workers.export_tasks",
    "velvetdrum.picture.raster.kernels.loaded",
)
"""What worker processes have imported before anybody waits for them."""
