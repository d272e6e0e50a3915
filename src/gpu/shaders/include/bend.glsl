// What shapes and bones make of a vertex. The reference is src/core/motion/bending.cpp; C++ side of the struct: gpu/frame/gpu_structs.h.
struct BodyData {
    uint firstVertex; // in the scene's vertices
    uint vertices;
    uint rest;        // words into RestBuffer, ten a vertex: position, normal, tangent
    uint influences;  // words into InfluenceBuffer, six for each set of a vertex: four joints in two words, four shares
    uint sets;        // of four joints a vertex; 0: no skin
    uint changes;     // words into ShapeBuffer, nine a vertex, shape by shape: position, normal, tangent
    uint shapes;
    uint joints;      // into JointBuffer
    uint jointsBefore; // the same of the frame before
    uint weights;     // into ShapeWeightBuffer
    uint weightsBefore;
    uint pad0;
};
layout(std430) readonly buffer BodyBuffer { BodyData bodies[]; };
layout(std430) readonly buffer RestBuffer { float rest[]; };
layout(std430) readonly buffer InfluenceBuffer { uint influences[]; };
layout(std430) readonly buffer ShapeBuffer { float shapeChanges[]; };
layout(std430) readonly buffer JointBuffer { mat4 joints[]; };
layout(std430) readonly buffer ShapeWeightBuffer { float shapeWeights[]; };

struct BentVertex {
    vec3 position; // the object's space
    vec3 normal;   // unit
    vec4 tangent;
};

vec3 unitOr(vec3 v, vec3 before) {
    float l = dot(v, v);
    return l > 1e-24 ? v * inversesqrt(l) : before;
}

/// A vertex of a body; before: as it stood in the frame before.
BentVertex bentVertex(uint body, uint vertex, bool before) {
    BodyData b = bodies[body];
    uint r = b.rest + 10u * vertex;
    vec3 restNormal = vec3(rest[r + 3u], rest[r + 4u], rest[r + 5u]);
    vec4 restTangent = vec4(rest[r + 6u], rest[r + 7u], rest[r + 8u], rest[r + 9u]);
    precise vec3 position = vec3(rest[r], rest[r + 1u], rest[r + 2u]);
    vec3 normal = restNormal, tangent = restTangent.xyz;
    uint w = before ? b.weightsBefore : b.weights;
    for (uint s = 0u; s < b.shapes; ++s) {
        float share = shapeWeights[w + s];
        if (share == 0.0) continue;
        uint c = b.changes + 9u * (s * b.vertices + vertex);
        position += share * vec3(shapeChanges[c], shapeChanges[c + 1u], shapeChanges[c + 2u]);
        normal += share * vec3(shapeChanges[c + 3u], shapeChanges[c + 4u], shapeChanges[c + 5u]);
        tangent += share * vec3(shapeChanges[c + 6u], shapeChanges[c + 7u], shapeChanges[c + 8u]);
    }
    if (b.sets > 0u) {
        uint first = before ? b.jointsBefore : b.joints;
        precise mat4 m = mat4(0.0);
        for (uint s = 0u; s < b.sets; ++s) {
            uint at = b.influences + 6u * (vertex * b.sets + s);
            for (uint k = 0u; k < 4u; ++k) {
                float share = uintBitsToFloat(influences[at + 2u + k]);
                if (share == 0.0) continue;
                uint pair = influences[at + (k >> 1u)];
                m += share * joints[first + ((k & 1u) == 0u ? pair & 0xFFFFu : pair >> 16u)];
            }
        }
        position = (m * vec4(position, 1.0)).xyz;
        // Cofactors carry normals, whatever the matrix does.
        vec3 x = m[0].xyz, y = m[1].xyz, z = m[2].xyz;
        mat3 cofactor = mat3(cross(y, z), cross(z, x), cross(x, y));
        normal = (dot(x, cofactor[0]) < 0.0 ? -1.0 : 1.0) * (cofactor * normal);
        tangent = mat3(m) * tangent;
    }
    BentVertex v;
    v.position = position;
    v.normal = unitOr(normal, restNormal);
    v.tangent = vec4(unitOr(tangent, restTangent.xyz), restTangent.w);
    return v;
}
