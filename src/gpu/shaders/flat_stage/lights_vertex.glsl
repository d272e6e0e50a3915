#version 450 core
// What a light's place sees, as triangles; one point is two floats and the light's number.
#include "include/structs.glsl"
struct FanPoint {
    vec2 place; // units
    uint light; // into flatLights
    uint whole;  // 1: all that it reaches, for what no shadow falls on
};
layout(std430) readonly buffer FlatFanBuffer { FanPoint fan[]; };
flat out uint lightOfFragment;
flat out uint whole;

void main() {
    FanPoint p = fan[gl_VertexID];
    lightOfFragment = p.light;
    whole = p.whole;
    vec4 w = parameters.flatWindow;
    gl_Position = vec4((p.place - w.xy) / (w.zw - w.xy) * 2.0 - 1.0, 0.0, 1.0);
}
