"""Draws the sheets of the rooftop apiary; every pixel follows from the code, none from chance or clock."""
