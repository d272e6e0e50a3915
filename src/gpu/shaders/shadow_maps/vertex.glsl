#version 450 core
// What one shadow map sees of an object.
#include "shadow_maps/casters.glsl"
#ifdef BEND
#include "include/bend.glsl"
#endif
layout(location = 0) in vec3 position;
layout(location = 3) in vec2 uv;
layout(location = 4) in vec4 color;
layout(location = 5) in uint draw; // place in CasterBuffer

uniform mat4 toMap; // world to clip space; depth 1 nearest to the light

#define CASTER_INTERFACE out
#include "shadow_maps/interface.glsl"

void main() {
    vec3 at = position;
#ifdef BEND
    uint body = casters[draw].body;
    if (body > 0u) at = bentVertex(body - 1u, uint(gl_VertexID) - bodies[body - 1u].firstVertex, false).position;
#endif
    gl_Position = toMap * (casters[draw].model * vec4(at, 1.0));
    vertex.uv = uv;
    vertex.alpha = color.a;
    vertex.material = casters[draw].material;
}
