// Where a direction of a polar map begins and goes: round a light's place, or across a directional light's way.
#include "include/flat.glsl"
/// Share of the way across the picture at which the map's first and last direction of a directional light lie.
vec2 polarAcross(FlatLightData l) {
    vec2 side = vec2(-l.direction.y, l.direction.x) / max(length(l.direction), 1e-6);
    vec4 w = parameters.flatWindow;
    vec4 at = vec4(dot(w.xy, side), dot(w.zy, side), dot(w.xw, side), dot(w.zw, side));
    return vec2(min(min(at.x, at.y), min(at.z, at.w)), max(max(at.x, at.y), max(at.z, at.w)));
}
