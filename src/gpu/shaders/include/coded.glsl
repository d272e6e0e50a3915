// Gamma-coded values in the place of linear ones (SUMS_CODED). The reference in double is src/core/finish/working_space.h.
#ifdef SUMS_CODED
#include "include/tone.glsl"
/// The code of a radiance relative to the one that is shown as 1, cd/m2 in and out.
vec3 codedRadiance(vec3 radiance) { return srgbEncode(max(radiance, vec3(0.0)) * parameters.tone.x) / parameters.tone.x; }
vec3 codedColor(vec3 color) { return srgbEncode(max(color, vec3(0.0))); }
#else
#define codedRadiance(radiance) (radiance)
#define codedColor(color) (color)
#endif
