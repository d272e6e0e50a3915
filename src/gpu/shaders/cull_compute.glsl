#version 450 core
// Lists the lights of one cell (a tile, or a slice of one) in each work group. The same tests as src/core/cull/light_grid.cpp; lights
// ascend in every list, so results repeat to the bit.
#include "include/structs.glsl"
#include "include/grid.glsl"
layout(local_size_x = 64) in;

struct CullLight {   // view space, metres; the camera looks along -z
    vec4 bounds;     // sphere around all that it reaches
    vec4 position;   // w: reach
    vec4 direction;  // w: cosine of the outer cone; -1 for points
    vec4 more;       // x: sine of the outer cone, y: strongest channel in cd
};

layout(std430, binding = 4) readonly buffer CullLightBuffer { CullLight cullLights[]; };
layout(std430, binding = 6) buffer ListBuffer { uint lists[]; };
layout(std430, binding = 7) buffer OverflowBuffer { uint overflow[2]; }; // lights that did not fit; cells that lost some
layout(binding = 0) uniform sampler2D depthTexture;

const int maxWords = 512; // 16,384 lights
const float farthest = 1e6;

shared uint nearBits, farBits, mask, total;
shared uint found[maxWords];
shared uint before[maxWords];

vec4 slopes;      // x/depth and y/depth of the tile's edges: left, right, bottom, top
float cellNear, cellFar;
vec3 low, high;   // the cell's box
vec4 around;      // sphere around that box
vec3 planes[4];

float edgeX(int p) { return (2.0 * float(min(p, frame.width)) / float(frame.width) - 1.0) * grid.extent.x; }
float edgeY(int p) { return (1.0 - 2.0 * float(min(p, frame.height)) / float(frame.height)) * grid.extent.y; }

void shapeCell() {
    float far = min(cellFar, farthest);
    low = vec3(min(slopes.x * cellNear, slopes.x * far), min(slopes.z * cellNear, slopes.z * far), -far);
    high = vec3(max(slopes.y * cellNear, slopes.y * far), max(slopes.w * cellNear, slopes.w * far), -cellNear);
    around = vec4(0.5 * (low + high), 0.5 * length(high - low));
    planes[0] = normalize(vec3(1.0, 0.0, slopes.x));
    planes[1] = normalize(vec3(-1.0, 0.0, -slopes.y));
    planes[2] = normalize(vec3(0.0, 1.0, slopes.z));
    planes[3] = normalize(vec3(0.0, -1.0, -slopes.w));
}

/// The tile's four sides; both bounds tests start from it. Slack for float rounding at the sides.
bool insideSides(vec4 s) {
    for (int i = 0; i < 4; ++i)
        if (dot(planes[i], s.xyz) < s.w * -1.0001) return false;
    return true;
}

bool sphereAgainstPlanes(vec4 s) {
    for (int i = 0; i < 4; ++i)
        if (dot(planes[i], s.xyz) < -s.w) return false;
    return -s.z + s.w >= cellNear && -s.z - s.w <= cellFar;
}

bool sphereAgainstBox(vec4 s) {
    vec3 d = s.xyz - clamp(s.xyz, low, high);
    return dot(d, d) <= s.w * s.w;
}

bool coneAgainstSphere(CullLight l) {
    vec3 v = around.xyz - l.position.xyz;
    float along = dot(v, l.direction.xyz);
    float across = sqrt(max(0.0, dot(v, v) - along * along));
    float slack = 1e-4 * (around.w + length(v)) + 1e-5;
    return l.direction.w * across - l.more.x * along <= around.w + slack && along >= -around.w - slack && along <= around.w + l.position.w + slack;
}

uint maskOf(vec4 s) {
    float scale = 32.0 / max(cellFar - cellNear, 1e-6);
    int a = clamp(int(floor((-s.z - s.w - cellNear) * scale)), 0, 31);
    int b = clamp(int(floor((-s.z + s.w - cellNear) * scale)), 0, 31);
    return (0xFFFFFFFFu << uint(a)) & (0xFFFFFFFFu >> uint(31 - b));
}

bool passesTests(CullLight l) {
    if (!insideSides(l.bounds)) return false;
    if (!(grid.test == 0 ? sphereAgainstPlanes(l.bounds) : sphereAgainstBox(l.bounds))) return false;
    if (grid.coneTest == 1 && l.direction.w > -1.0 && !coneAgainstSphere(l)) return false;
    return grid.depthBounds != 2 || (maskOf(l.bounds) & mask) != 0u;
}

/// Rank on overflow: irradiance that the light could give at the nearest point of the cell.
float contribution(CullLight l) {
    vec3 d = l.position.xyz - clamp(l.position.xyz, low, high);
    return l.more.y / max(dot(d, d), 0.01);
}

float sampleDepth(ivec2 p) { // view depth of a pixel, rows from the top; 0 where there is nothing
    float d = texelFetch(depthTexture, ivec2(p.x, frame.height - 1 - p.y), 0).r;
    return d > 0.0 ? frame.forward.w / d : 0.0;
}

void main() {
    ivec3 cell = ivec3(gl_WorkGroupID);
    uint index = uint((cell.z * grid.rows + cell.y) * grid.columns + cell.x);
    uint lane = gl_LocalInvocationID.x;
    int lightCount = grid.lightCount - grid.firstBounded;
    int words = (lightCount + 31) / 32;
    if (lane == 0u) {
        nearBits = 0x7F7FFFFFu;
        farBits = 0u;
        mask = grid.depthBounds == 2 ? 0u : 0xFFFFFFFFu;
        total = 0u;
    }
    for (int w = int(lane); w < words; w += 64)
        found[w] = 0u;
    barrier();

    slopes = vec4(edgeX(cell.x * grid.tile), edgeX((cell.x + 1) * grid.tile), edgeY((cell.y + 1) * grid.tile), edgeY(cell.y * grid.tile));
    int pixels = grid.tile * grid.tile;
    if (grid.depthBounds != 0) {
        // Positive floats order as their bits do.
        for (int i = int(lane); i < pixels; i += 64) {
            ivec2 p = cell.xy * grid.tile + ivec2(i % grid.tile, i / grid.tile);
            if (p.x >= frame.width || p.y >= frame.height) continue;
            float d = sampleDepth(p);
            if (d <= 0.0 || sliceOf(d) != cell.z) continue;
            atomicMin(nearBits, floatBitsToUint(d));
            atomicMax(farBits, floatBitsToUint(d));
        }
        barrier();
        cellNear = uintBitsToFloat(nearBits);
        cellFar = uintBitsToFloat(farBits);
        if (farBits == 0u) { // no sample: nothing to shade here
            if (lane == 0u) lists[index] = 0u;
            return;
        }
        if (grid.depthBounds == 2) {
            for (int i = int(lane); i < pixels; i += 64) {
                ivec2 p = cell.xy * grid.tile + ivec2(i % grid.tile, i / grid.tile);
                if (p.x >= frame.width || p.y >= frame.height) continue;
                float d = sampleDepth(p);
                if (d <= 0.0 || sliceOf(d) != cell.z) continue;
                atomicOr(mask, 1u << uint(clamp(int((d - cellNear) * 32.0 / max(cellFar - cellNear, 1e-6)), 0, 31)));
            }
            barrier();
        }
    } else if (grid.slices <= 1) {
        cellNear = grid.cameraNear;
        cellFar = 1e30;
    } else {
        float ratio = grid.sliceFar / grid.sliceNear;
        cellNear = cell.z == 0 ? grid.cameraNear : grid.sliceNear * pow(ratio, float(cell.z) / float(grid.slices)) * 0.9999;
        cellFar = cell.z == grid.slices - 1 ? 1e30 : grid.sliceNear * pow(ratio, float(cell.z + 1) / float(grid.slices)) * 1.0001;
    }
    shapeCell();

    for (int l = int(lane); l < lightCount; l += 64)
        if (passesTests(cullLights[l])) {
            atomicOr(found[l >> 5], 1u << uint(l & 31));
            atomicAdd(total, 1u);
        }
    barrier();

    uint capacity = uint(grid.capacity);
    if (total > capacity) {
        // Too many: a light stays if fewer than `capacity` others give more (ties to the lower number). Rare, so it may be slow.
        for (int w = int(lane); w < words; w += 64)
            before[w] = 0u;
        barrier();
        for (int l = int(lane); l < lightCount; l += 64) {
            if ((found[l >> 5] & (1u << uint(l & 31))) == 0u) continue;
            float mine = contribution(cullLights[l]);
            uint better = 0u;
            for (int o = 0; o < lightCount && better < capacity; ++o)
                if (o != l && (found[o >> 5] & (1u << uint(o & 31))) != 0u) {
                    float theirs = contribution(cullLights[o]);
                    if (theirs > mine || (theirs == mine && o < l)) ++better;
                }
            if (better >= capacity) atomicOr(before[l >> 5], 1u << uint(l & 31));
        }
        barrier();
        for (int w = int(lane); w < words; w += 64)
            found[w] &= ~before[w];
        if (lane == 0u) {
            atomicAdd(overflow[0], total - capacity);
            atomicAdd(overflow[1], 1u);
            total = capacity;
        }
        barrier();
    }

    if (lane == 0u) {
        uint sum = 0u;
        for (int w = 0; w < words; ++w) {
            before[w] = sum;
            sum += uint(bitCount(found[w]));
        }
        lists[index] = sum;
    }
    barrier();
    uint base = uint(grid.columns * grid.rows * grid.slices) + index * capacity;
    for (int w = int(lane); w < words; w += 64) {
        uint bits = found[w], at = base + before[w];
        while (bits != 0u) {
            int bit = findLSB(bits);
            bits &= bits - 1u;
            lists[at++] = uint(w * 32 + bit + grid.firstBounded);
        }
    }
}
