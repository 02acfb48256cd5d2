"""Noise policy: how many samples a pixel gets, and when a picture has enough.

Noise is the standard error of the displayed picture, in shares of full scale, before denoising.
"""

# Noise at which sampling stops for a quality of order, and the most samples to get there.
NOISE: dict[str, float] = {"proof": 0.04, "final": 0.012}
MOST_SAMPLES: dict[str, int] = {"proof": 32, "final": 512}

# A pixel is not judged before it has so many samples: two lucky halves would agree.
JUDGED_FROM = 16
# The fewest samples that show, with those of the neighbours, where more should go.
FIRST_SAMPLES = 8
# Width in px of the square whose pixels give the noise of the one in its middle.
NEIGHBOURS = 7

# Samples per pixel after which the live picture is shown again. It is settled at the last one, or when
# no pixel's noise is over SETTLED_NOISE, which is not measured from fewer than LIVE_JUDGED_FROM samples.
LIVE_PASSES = (2, 4, 8, 16, 32, 64)
SETTLED_NOISE = 0.04
LIVE_JUDGED_FROM = 8
