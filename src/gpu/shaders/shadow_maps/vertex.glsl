#version 450 core
// What one shadow map sees of an object.
#include "shadow_maps/casters.glsl"
layout(location = 0) in vec3 position;
layout(location = 3) in vec2 uv;
layout(location = 4) in vec4 color;
layout(location = 5) in uint draw; // place in CasterBuffer

uniform mat4 toMap; // world to clip space; depth 1 nearest to the light

#define CASTER_INTERFACE out
#include "shadow_maps/interface.glsl"

void main() {
    gl_Position = toMap * (casters[draw].model * vec4(position, 1.0));
    vertex.uv = uv;
    vertex.alpha = color.a;
    vertex.material = casters[draw].material;
}
