"""Views of pictures and grounds that pan and zoom with sharp pixels."""
