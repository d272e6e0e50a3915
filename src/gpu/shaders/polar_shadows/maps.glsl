#version 450 core
// How far each light sees in every direction: a lane holds one direction against all edges.
layout(local_size_x = 64) in;
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "include/flat.glsl"
#include "polar_shadows/place.glsl"
layout(r32f) uniform writeonly image2D polarMapsImage;
layout(std430) readonly buffer FlatEdgeBuffer { vec4 edges[]; };

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy);
    int count = int(parameters.polarShape.x);
    if (at.x >= count) return;
    FlatLightData l = flatLights[at.y];
    float share = (float(at.x) + 0.5) / float(count);
    vec2 origin = l.place, way;
    if (l.kind == 0) {
        way = l.direction / max(length(l.direction), 1e-6);
        vec2 across = polarAcross(l);
        origin = vec2(-way.y, way.x) * mix(across.x, across.y, share);
    } else {
        float angle = share * 6.2831853072;
        way = vec2(cos(angle), sin(angle));
    }
    float nearest = 1e30;
    int edgeCount = int(parameters.polarShape.z);
    for (int i = 0; i < edgeCount; ++i) {
        vec2 a = edges[i].xy - origin, along = edges[i].zw - edges[i].xy;
        float turn = way.x * along.y - way.y * along.x;
        float t = (a.x * along.y - a.y * along.x) / turn, u = (a.x * way.y - a.y * way.x) / turn;
        if (turn != 0.0 && u >= 0.0 && u <= 1.0 && (t > 0.0 || l.kind == 0)) nearest = min(nearest, t);
    }
    imageStore(polarMapsImage, at, vec4(nearest));
}
