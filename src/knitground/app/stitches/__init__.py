"""Stage 3: rules that lay tiles by their neighbours."""
