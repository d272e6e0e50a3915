#version 450 core
#ifdef BOTH_EYES
#extension GL_ARB_shader_viewport_layer_array : require
#endif
#define VERTEX_STAGE
#include "include/structs.glsl"

layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec4 tangent;
layout(location = 3) in vec2 uv;
layout(location = 4) in vec4 color;
layout(location = 5) in uint draw; // one for each instance: the draw's place in DrawBuffer

// BEND: surfaces that bones or shapes bend are bent here. BEND_BEFORE: where they stood in the frame before is told.
#if defined(BEND) || defined(BEND_BEFORE)
#include "include/bend.glsl"
#endif

#define VERTEX_INTERFACE out
#include "include/vertex_interface.glsl"

invariant gl_Position; // every pass must land on the same depth, or GL_EQUAL would fail

void main() {
    vec3 at = position, facing = normal;
    vec4 along = tangent;
#if defined(BEND) || defined(BEND_BEFORE)
    uint body = uint(draws[draw].normalMatrix[1].w);
    uint own = body > 0u ? uint(gl_VertexID) - bodies[body - 1u].firstVertex : 0u;
#endif
#ifdef BEND
    if (body > 0u) {
        BentVertex bent = bentVertex(body - 1u, own, false);
        at = bent.position;
        facing = bent.normal;
        along = bent.tangent;
    }
#endif
    vec4 world = draws[draw].model * vec4(at, 1.0);
    mat3 toWorld = mat3(draws[draw].normalMatrix[0].xyz, draws[draw].normalMatrix[1].xyz, draws[draw].normalMatrix[2].xyz);
    vertex.position = world.xyz;
    vertex.normal = toWorld * facing;
    vertex.tangent = vec4(mat3(draws[draw].model) * along.xyz, along.w);
    vertex.uv = uv;
    vertex.color = color;
    vertex.draw = draw;
#ifdef BEND_BEFORE
    vertex.before = body > 0u ? (draws[draw].model * vec4(bentVertex(body - 1u, own, true).position, 1.0)).xyz : world.xyz;
#endif
    gl_Position = frame.viewProjection * world;
#ifdef BOTH_EYES
    gl_Layer = gl_InstanceID & 1;
#endif
}
