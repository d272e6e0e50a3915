#pragma once
#include <glm/glm.hpp>

// One side of a pair: src/gpu/shaders/include/structs.glsl holds the same structs in GLSL (std430), and a test compares
// every offset.
namespace mirolux::gpu {

struct FrameData {
    glm::mat4 viewProjection, inverseViewProjection;
    glm::vec4 eye, forward;
    glm::vec4 time;
    int width = 0, height = 0;
    float depthNear = 0, depthFar = 1;
};

struct LightData {
    glm::vec3 position;
    float range;
    glm::vec3 direction;
    float reach;
    glm::vec3 intensity;
    int type;
    float cosInner, cosOuter;
    float diffuseShare, specularShare;
};

struct DrawData {
    std::uint32_t material, lightOffset, lightCount, object, unshadowed;
};

/// What the vertex stage reads of an instance, as instanced attributes (surface/vertex.glsl, shadow_maps/vertex.glsl).
struct InstanceData {
    glm::mat4x3 model;        // object to world, metres
    glm::mat3 normal;         // of its normals
    std::uint32_t number = 0; // of its draw; in shadow maps of its material
    std::uint32_t body = 0;   // from 1; 0: rigid
    std::uint32_t map = 0;    // Object::map
    /// Where its vertices' openness begins in VertexOpennessBuffer, less the mesh's first vertex, 31 bits; with the
    /// highest bit: nowhere.
    std::uint32_t openness = 1u << 31;
};

struct MaterialData {
    glm::vec4 baseColor;
    glm::vec3 emissive;
    float alphaCutoff;
    float metallic, roughness, normalScale, occlusionStrength;
    std::uint32_t flags, optics, pad[2];
};

struct OpticsData {
    glm::vec3 f0;
    float f90;
    glm::vec3 scatter;
    float farthest;
    float coat, coatRoughness, thickness, pad;
};

/// shaders/include/grid.glsl.
struct GridData {
    std::int32_t columns, rows, slices, tile;
    std::int32_t capacity, depthBounds, test, coneTest;
    float sliceNear, sliceFar, cameraNear;
    std::int32_t firstBounded;
    std::int32_t lightCount, transparent;
    glm::vec2 extent;
    float sliceExponent;
    std::int32_t eyeStride;
    float pad[2];
};

/// shaders/light_lists/cull.glsl.
struct CullLightData {
    glm::vec4 bounds, position, direction, more;
};

/// shaders/include/bend.glsl.
struct BodyData {
    std::uint32_t firstVertex, vertices, rest, influences;
    std::uint32_t sets, changes, shapes, joints;
    std::uint32_t jointsBefore, weights, weightsBefore, pad;
};

/// shaders/include/probe.glsl: one surface that covers the probed pixel; the buffer begins with a count and 12 bytes of
/// padding.
struct ProbeData {
    glm::vec4 position, normal, baseColor, emissive, ambient, mirrored, reflected, probes, baked;
    std::uint32_t draw, triangle;
    float screenOcclusion, thickness;
};

/// shaders/include/ledger.glsl.
struct LedgerData {
    std::uint32_t evaluations, low, high, taps;
    std::uint32_t cells, airLow, airHigh, pad;
};

/// shaders/include/flat.glsl.
struct FlatLightData {
    glm::vec2 place;
    float height, range;
    glm::vec2 direction;
    float cosInner, cosOuter;
    glm::vec3 color;
    std::int32_t kind;
    glm::vec2 axis, extent;
    glm::vec4 profile;
    std::uint32_t layers;
    float falloff, rise;
    std::uint32_t casts;
    float size, pad[3];
};

/// shaders/flat_stage/lights_vertex.glsl.
struct FanPointData {
    glm::vec2 place;
    std::uint32_t light, whole;
};

/// shaders/flat_stage/quads_vertex.glsl.
struct TallEdgeData {
    glm::vec2 a, b;
    float height, pad[3];
};

/// glMultiDrawElementsIndirect's record.
struct DrawCommand {
    std::uint32_t count, instances, firstIndex;
    std::int32_t baseVertex;
    std::uint32_t baseInstance;
};

} // namespace mirolux::gpu
