// From radiance to exposed units: by hand, or as the meter came to.
#ifdef METERED
uniform sampler2D exposure;
float exposureScale() { return texelFetch(exposure, ivec2(0), 0).g; }
#else
float exposureScale() { return parameters.tone.x; }
#endif
