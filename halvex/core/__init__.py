"""The job itself: piece → lettering → solids → optics → scene → render → finish → output.

Each package imports only from those before it in that order (tests/test_layers.py holds this).
Nothing here knows of HTTP, of the database or of the words on the screen.
"""

from halvex.core.cache import use_cache

use_cache()
