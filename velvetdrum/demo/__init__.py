"""The sample world of Lantern Quay: made by these scripts, nothing borrowed."""
