"""Noise policy: how many samples a pixel gets, and when a picture has enough.

Noise is the standard error of the displayed picture, in shares of full scale, before denoising.
"""

# Mean FLIP to the converged picture, after denoising, that an order of a quality aims at, and the most
# samples a pixel on average to get there.
AIM: dict[str, float] = {"proof": 0.04, "final": 0.03}
MOST_SAMPLES: dict[str, int] = {"proof": 32, "final": 512}
# Samples of the letters, twice those of the ground, before a picture is first judged.
FIRST_CLEAN_SAMPLES = 4

# A pixel is not judged before it has so many samples: two lucky halves would agree.
JUDGED_FROM = 16
# The fewest samples that show, with those of the neighbours, where more should go.
FIRST_SAMPLES = 8
# Width in px of the square whose pixels give the noise of the one in its middle.
NEIGHBOURS = 7

# Samples of the letters, twice those of the ground, after which the live picture is shown and not judged yet.
LIVE_PASSES = (2, 4)
# A finished picture that is developed anew, in other light, is good enough up to this multiple of the aim.
STILL_CLEAN = 1.15
