"""Finishing: from linear light to the picture one looks at."""
