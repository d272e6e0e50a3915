#version 450 core
// Whether a pixel of each object's box lies before the depth of the occluders: a lane an object. QUERIES: the device has answered that.
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "include/count.glsl"
#include "visibility/boxes.glsl"
layout(local_size_x = 64) in;
layout(std430) buffer VisibleObjectBuffer { uint visibleObjects[]; }; // 1: it was seen, by object
uniform int count;
#ifdef QUERIES
layout(std430) readonly buffer QueryAnswerBuffer { uint answers[]; };
bool shows(uint i) { return answers[i] != 0u; }
#else
layout(std430) readonly buffer OccluderPyramidBuffer { float pyramid[]; };
struct Level {
    ivec2 size;
    int first;
    int pixels; // across a texel
};
layout(std430) readonly buffer PyramidLevelBuffer { Level levels[]; };
uniform int levelCount;

bool shows(uint i) {
    vec2 low = vec2(1e30), high = vec2(-1e30);
    float nearest = 0.0;
    for (int k = 0; k < 8; ++k) {
        vec3 corner = vec3((k & 1) != 0 ? boxes[i].high.x : boxes[i].low.x, (k & 2) != 0 ? boxes[i].high.y : boxes[i].low.y,
                           (k & 4) != 0 ? boxes[i].high.z : boxes[i].low.z);
        vec4 clip = frame.viewProjection * vec4(corner, 1.0);
        if (clip.w <= clip.z) return true; // before the near plane
        vec3 at = clip.xyz / clip.w;
        low = min(low, at.xy);
        high = max(high, at.xy);
        nearest = max(nearest, at.z);
    }
    vec2 size = vec2(frame.width, frame.height);
    ivec2 from = ivec2(floor((0.5 * low + 0.5) * size)) - 1, to = ivec2(ceil((0.5 * high + 0.5) * size)) + 1; // a pixel of room
    if (to.x < 0 || to.y < 0 || from.x >= frame.width || from.y >= frame.height) return false;
    from = max(from, ivec2(0));
    to = min(to, ivec2(frame.width, frame.height) - 1);
    int level = 0;
    while (level < levelCount - 1 && any(greaterThan(to / levels[level].pixels - from / levels[level].pixels, ivec2(7)))) ++level;
    ivec2 first = from / levels[level].pixels, last = min(to / levels[level].pixels, levels[level].size - 1);
    float farthest = 1.0;
    for (int y = first.y; y <= last.y; ++y)
        for (int x = first.x; x <= last.x; ++x)
            farthest = min(farthest, pyramid[levels[level].first + y * levels[level].size.x + x]);
    return nearest * 1.0001 >= farthest;
}
#endif

void main() {
    uint i = gl_GlobalInvocationID.x;
    if (i >= uint(count)) return;
    countOf(COUNTER_objectTests, 1u);
    bool shown = boxes[i].around != 0u || shows(i);
    visibleObjects[boxes[i].object] = shown ? 1u : 0u;
}
