"""Colour, spectra, Fresnel, microfacets and materials: how light meets a surface."""
