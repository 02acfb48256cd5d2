"""Light transport: trees, sampler, the draft and path integrators, film and denoising."""
