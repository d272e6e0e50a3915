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
// Of each instance (gpu/frame/gpu_structs.h: InstanceData): attributes, which cost less than a buffer read for each vertex.
layout(location = 5) in uvec4 instance; // the draw's place in DrawBuffer; its body from 1, 0: rigid; its place in a light map, 0: none; where its vertices'
                                        // openness begins, less its first vertex: not at all with the highest bit
layout(location = 6) in mat4x3 model;
layout(location = 10) in mat3 toWorld;  // of normals
#ifdef MAP_PLACES
layout(location = 13) in vec3 place; // texels in its mesh's rectangle of the map, and its chart
#endif

// BEND: surfaces that bones or shapes bend are bent here. BEND_BEFORE: where they stood in the frame before is told.
#if defined(BEND) || defined(BEND_BEFORE)
#include "include/bend.glsl"
#endif

#define VERTEX_INTERFACE out
#include "include/vertex_interface.glsl"

#ifdef OPEN_VERTICES
layout(std430) readonly buffer VertexOpennessBuffer { uint vertexOpenness[]; }; // four a word, the first in the lowest byte

float opennessOfVertex() {
    if ((instance.w >> 31) != 0u) return 1.0;
    uint at = (instance.w + uint(gl_VertexID)) & 0x7FFFFFFFu; // what it begins with may be below 0
    return float(vertexOpenness[at >> 2] >> (at & 3u) * 8u & 255u) / 255.0;
}
#endif

invariant gl_Position; // every pass must land on the same depth, or GL_EQUAL would fail

void main() {
    vec3 at = position, facing = normal;
    vec4 along = tangent;
#if defined(BEND) || defined(BEND_BEFORE)
    uint body = instance.y;
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
    vec3 world = model * vec4(at, 1.0);
    vertex.position = world;
    vertex.normal = toWorld * facing;
    vertex.tangent = vec4(mat3(model) * along.xyz, along.w);
    vertex.uv = uv;
    vertex.color = color;
    vertex.draw = instance.x;
#ifdef MAP_PLACES
    vertex.mapped = instance.z != 0u ? 1u : 0u; // src/core/scene/scene.h: map_word
    vertex.place = place + vec3(instance.z & 0x7FFFu, (instance.z >> 15) & 0x7FFFu, 0.0);
#endif
#ifdef OPEN_VERTICES
    vertex.openness = opennessOfVertex();
#endif
#ifdef BEND_BEFORE
    vertex.before = body > 0u ? model * vec4(bentVertex(body - 1u, own, true).position, 1.0) : world;
#endif
    gl_Position = frame.viewProjection * vec4(world, 1.0);
#ifdef BOTH_EYES
    gl_Layer = gl_InstanceID & 1;
#endif
}
