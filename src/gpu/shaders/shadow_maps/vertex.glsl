#version 450 core
// What one shadow map sees of an object.
#include "include/structs.glsl"
#ifdef BEND
#include "include/bend.glsl"
#endif
layout(location = 0) in vec3 position;
layout(location = 3) in vec2 uv;
layout(location = 4) in vec4 color;
layout(location = 5) in uvec2 instance; // material; its body from 1, 0: rigid
layout(location = 6) in mat4x3 model;

uniform mat4 toMap; // world to clip space; depth 1 nearest to the light

#define CASTER_INTERFACE out
#include "shadow_maps/interface.glsl"

void main() {
    vec3 at = position;
#ifdef BEND
    uint body = instance.y;
    if (body > 0u) at = bentVertex(body - 1u, uint(gl_VertexID) - bodies[body - 1u].firstVertex, false).position;
#endif
    gl_Position = toMap * vec4(model * vec4(at, 1.0), 1.0);
    vertex.uv = uv;
    vertex.alpha = color.a;
    vertex.material = instance.x;
}
