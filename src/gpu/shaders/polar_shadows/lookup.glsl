// What polar maps leave of a light at a point: the share of the neighbouring directions that see as far.
#include "polar_shadows/place.glsl"
uniform sampler2D polarMaps;

float polarFactor(uint light, vec2 point) {
    FlatLightData l = flatLights[light];
    if (l.casts == 0u) return 1.0;
    int count = int(parameters.polarShape.x), taps = int(parameters.polarShape.y);
    float far, share;
    if (l.kind == 0) {
        vec2 way = l.direction / max(length(l.direction), 1e-6), across = polarAcross(l);
        far = dot(point, way);
        share = (dot(point, vec2(-way.y, way.x)) - across.x) / max(across.y - across.x, 1e-6);
    } else {
        vec2 to = point - l.place;
        far = length(to);
        share = atan(to.y, to.x) / 6.2831853072;
    }
    float x = share * float(count) - 0.5 * float(taps);
    int first = int(floor(x));
    float part = x - floor(x), sum = 0.0;
    for (int k = 0; k <= taps; ++k) {
        int texel = first + k;
        texel = l.kind == 0 ? clamp(texel, 0, count - 1) : (texel + 2 * count) % count;
        float seen = texelFetch(polarMaps, ivec2(texel, int(light)), 0).r >= far - 1e-3 ? 1.0 : 0.0;
        sum += seen * (k == 0 ? 1.0 - part : k == taps ? part : 1.0);
    }
    return sum / float(taps);
}
