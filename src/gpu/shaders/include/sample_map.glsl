// Samples as a tone curve shows them, or their radiance: mapped_sample of src/core/finish/edges.h. TONED, METERED.
#ifdef METERED
uniform sampler2D exposurePrevious; // the frame before's: this one's is not known yet
float sampleScale() {
    vec4 before = texelFetch(exposurePrevious, ivec2(0), 0);
    return parameters.sampleBend.x * (before.a > 0.0 ? before.g : parameters.tone.x);
}
#else
float sampleScale() { return parameters.sampleBend.x * parameters.tone.x; }
#endif
#ifdef TONED
vec3 mappedSample(vec3 v, float scale) { return v / (1.0 + scale * max(max(v.r, v.g), max(v.b, 0.0))); }
vec3 unmappedSample(vec3 v, float scale) { return v / max(1e-4, 1.0 - scale * max(max(v.r, v.g), max(v.b, 0.0))); }
#else
vec3 mappedSample(vec3 v, float scale) { return v; }
vec3 unmappedSample(vec3 v, float scale) { return v; }
#endif
