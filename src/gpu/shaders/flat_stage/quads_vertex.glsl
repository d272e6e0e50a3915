#version 450 core
// The quad that an edge throws from a light's place: its two ends, and the same away from the light.
#include "include/structs.glsl"
#include "include/flat.glsl"
struct TallEdge {
    vec2 a, b;
    float height; // units; 0: without end
    float pad0, pad1, pad2;
};
layout(std430) readonly buffer TallEdgeBuffer { TallEdge edges[]; };
uniform int light;

void main() {
    TallEdge edge = edges[gl_VertexID / 6];
    int corner = gl_VertexID % 6; // a b B, a B A: small letters are the edge's ends
    FlatLightData l = flatLights[light];
    vec2 p = corner == 1 || corner == 2 || corner == 4 ? edge.b : edge.a;
    vec2 away = l.kind == 0 ? l.direction : p - l.place;
    vec4 w = parameters.flatWindow;
    vec2 scale = 2.0 / (w.zw - w.xy);
    gl_Position = vec4((p - w.xy) * scale - 1.0, 0.0, 1.0);
    if (corner != 2 && corner < 4) return;
    // A wall that ends throws a shadow to where light over its top meets the ground.
    float above = max(1.0, l.height);
    vec2 end = p;
    bool ends = false;
    if (edge.height > 0.0 && l.kind == 0 && l.rise < 0.0) {
        end = p + away * (edge.height / -l.rise);
        ends = true;
    } else if (edge.height > 0.0 && l.kind != 0 && above > edge.height) {
        end = l.place + away / (1.0 - edge.height / above);
        ends = true;
    }
    gl_Position = ends ? vec4((end - w.xy) * scale - 1.0, 0.0, 1.0) : vec4(away / max(length(away), 1e-6) * scale, 0.0, 0.0);
}
