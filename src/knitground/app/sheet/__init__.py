"""Stage 1: cutting a sheet."""
