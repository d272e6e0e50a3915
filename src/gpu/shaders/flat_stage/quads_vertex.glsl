#version 450 core
// The quad that an edge throws from a light's place: its two ends, and the same without end away from the light.
#include "include/structs.glsl"
#include "include/flat.glsl"
layout(std430) readonly buffer FlatEdgeBuffer { vec4 edges[]; };
uniform int light;

void main() {
    vec4 edge = edges[gl_VertexID / 6];
    int corner = gl_VertexID % 6; // a b B, a B A: small letters are the edge's ends
    FlatLightData l = flatLights[light];
    vec2 p = corner == 1 || corner == 2 || corner == 4 ? edge.zw : edge.xy;
    vec2 away = l.kind == 0 ? l.direction : p - l.place;
    vec4 w = parameters.flatWindow;
    vec2 scale = 2.0 / (w.zw - w.xy);
    gl_Position = corner == 2 || corner >= 4 ? vec4(away / max(length(away), 1e-6) * scale, 0.0, 0.0)
                                             : vec4((p - w.xy) * scale - 1.0, 0.0, 1.0);
}
