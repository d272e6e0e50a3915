#version 450 core
// Lists the lights of one tile, or of each of its depth slices, in a work group. The same tests as src/core/cull/light_grid.cpp; lights
// ascend in every list, so results repeat to the bit. Where blended surfaces are in view, lists without a near bound are made as well.
#include "include/structs.glsl"
#include "include/grid.glsl"
#define COMPUTE_STAGE
#include "include/count.glsl"
layout(local_size_x = LANES) in; // as many as the device runs together: more only wait for each other at barriers

struct CullLight {   // view space, metres; the camera looks along -z
    vec4 bounds;     // sphere around all that it reaches
    vec4 position;   // w: reach
    vec4 direction;  // w: cosine of the outer cone; -1 for points
    vec4 more;       // x: sine of the outer cone, y: strongest channel in cd
};

layout(std430) readonly buffer CullLightBuffer { CullLight cullLights[]; };
#ifndef LIST_BLOCK
#define LIST_BLOCK ListBuffer
#define OVERFLOW_BLOCK OverflowBuffer
#endif
layout(std430) buffer LIST_BLOCK { uint lists[]; };
layout(std430) buffer OVERFLOW_BLOCK { uint overflow[4]; }; // lights that did not fit, cells that lost some; the same of the transparent lists
#ifndef SAMPLES
#define SAMPLES 1
#endif
#if SAMPLES > 1 // of a pixel
uniform sampler2DMS depthTexture;
#else
uniform sampler2D depthTexture;
#endif

const int lanes = LANES;
const int maxWords = 512; // 16,384 lights
const int maxSlices = 64;
const int maxCandidates = 2048;
const float farthest = 1e6;
const uint noSample = 0x7F7FFFFFu; // bits of the largest float

shared uint nearBits[maxSlices], farBits[maxSlices], masks[maxSlices];
shared uint openPixels, candidateCount, total;
shared uint candidates[maxCandidates]; // lights that touch the tile's four sides
shared uint found[maxWords];
shared uint leaving[maxWords];

vec4 slopes;      // x/depth and y/depth of the tile's edges: left, right, bottom, top
float cellNear, cellFar;
uint cellMask;
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

bool passesTests(CullLight l, bool masked) {
    if (!insideSides(l.bounds)) return false;
    if (!(grid.test == 0 ? sphereAgainstPlanes(l.bounds) : sphereAgainstBox(l.bounds))) return false;
    if (grid.coneTest == 1 && l.direction.w > -1.0 && !coneAgainstSphere(l)) return false;
    return !masked || (maskOf(l.bounds) & cellMask) != 0u;
}

/// Rank on overflow: irradiance that the light could give at the nearest point of the cell.
float contribution(CullLight l) {
    vec3 d = l.position.xyz - clamp(l.position.xyz, low, high);
    return l.more.y / max(dot(d, d), 0.01);
}

float sampleDepth(ivec2 p, int number) { // view depth of a pixel's sample, rows from the top; 0 where there is nothing
    float d = texelFetch(depthTexture, ivec2(p.x, frame.height - 1 - p.y), number).r;
    return d > 0.0 ? frame.forward.w / d : 0.0;
}

/// Near and far of each slice's samples; each lane gathers runs of one slice before it takes an atomic.
void boundSlices(ivec2 corner, int lane) {
    int slice = -1;
    float near = 3.4e38, far = 0.0;
    int pixels = grid.tile * grid.tile;
    for (int i = lane; i < pixels * SAMPLES; i += lanes) {
        int pixel = i / SAMPLES;
        ivec2 p = corner + ivec2(pixel % grid.tile, pixel / grid.tile);
        bool inside = p.x < frame.width && p.y < frame.height;
        float d = inside ? sampleDepth(p, i % SAMPLES) : 0.0;
        if (inside && d <= 0.0) openPixels = 1u;
        if (d <= 0.0) continue;
        int s = sliceOf(d);
        if (s != slice) {
            if (slice >= 0) {
                atomicMin(nearBits[slice], floatBitsToUint(near));
                atomicMax(farBits[slice], floatBitsToUint(far));
            }
            slice = s;
            near = far = d;
        }
        near = min(near, d);
        far = max(far, d);
    }
    if (slice >= 0) { // positive floats order as their bits do
        atomicMin(nearBits[slice], floatBitsToUint(near));
        atomicMax(farBits[slice], floatBitsToUint(far));
    }
}

void markSamples(ivec2 corner, int lane) {
    int slice = -1;
    uint bits = 0u;
    int pixels = grid.tile * grid.tile;
    for (int i = lane; i < pixels * SAMPLES; i += lanes) {
        int pixel = i / SAMPLES;
        ivec2 p = corner + ivec2(pixel % grid.tile, pixel / grid.tile);
        if (p.x >= frame.width || p.y >= frame.height) continue;
        float d = sampleDepth(p, i % SAMPLES);
        if (d <= 0.0) continue;
        int s = sliceOf(d);
        if (s != slice) {
            if (slice >= 0) atomicOr(masks[slice], bits);
            slice = s;
            bits = 0u;
        }
        float near = uintBitsToFloat(nearBits[s]), far = uintBitsToFloat(farBits[s]);
        bits |= 1u << uint(clamp(int((d - near) * 32.0 / max(far - near, 1e-6)), 0, 31));
    }
    if (slice >= 0) atomicOr(masks[slice], bits);
}

/// Bounds of a slice without regard to samples; a hair wider than the slice, so that rounding in sliceOf puts no sample outside.
void sliceBounds(int slice) {
    cellNear = grid.cameraNear;
    cellFar = 1e30;
    if (grid.slices <= 1) return;
    float ratio = grid.sliceFar / grid.sliceNear;
    if (slice > 0) cellNear = grid.sliceNear * pow(ratio, pow(float(slice) / float(grid.slices), grid.sliceExponent)) * 0.9999;
    if (slice < grid.slices - 1) cellFar = grid.sliceNear * pow(ratio, pow(float(slice + 1) / float(grid.slices), grid.sliceExponent)) * 1.0001;
}

/// Too many: a light stays if fewer than `capacity` others give more (ties to the lower number). Rare, so it may be slow.
void shorten(int words, int lightCount, uint capacity, int lane) {
    for (int w = lane; w < words; w += lanes)
        leaving[w] = 0u;
    barrier();
    for (int l = lane; l < lightCount; l += lanes) {
        if ((found[l >> 5] & (1u << uint(l & 31))) == 0u) continue;
        float mine = contribution(cullLights[l]);
        uint better = 0u;
        for (int o = 0; o < lightCount && better < capacity; ++o)
            if (o != l && (found[o >> 5] & (1u << uint(o & 31))) != 0u) {
                float theirs = contribution(cullLights[o]);
                if (theirs > mine || (theirs == mine && o < l)) ++better;
            }
        if (better >= capacity) atomicOr(leaving[l >> 5], 1u << uint(l & 31));
    }
    barrier();
    for (int w = lane; w < words; w += lanes)
        found[w] &= ~leaving[w];
    barrier();
}

/// Tests the candidates against the shaped cell and writes its list. Called by all lanes.
void listCell(uint index, uint part, bool masked, int lane) {
    int lightCount = grid.lightCount - grid.firstBounded;
    int words = (lightCount + 31) / 32;
    for (int w = lane; w < words; w += lanes)
        found[w] = 0u;
    if (lane == 0) total = 0u;
    barrier();
    shapeCell();
    bool fits = candidateCount <= uint(maxCandidates);
    int tested = fits ? int(candidateCount) : lightCount;
    for (int i = lane; i < tested; i += lanes) {
        int l = fits ? int(candidates[i]) : i;
        if (passesTests(cullLights[l], masked)) {
            atomicOr(found[l >> 5], 1u << uint(l & 31));
            atomicAdd(total, 1u);
        }
    }
    barrier();
#ifdef COUNT
    if (lane == 0) {
        countOf(COUNTER_cells, 1u);
        countOf(COUNTER_cellTests, uint(tested + 7) / 8u * 8u); // in eights: few lanes are ever saved by less
        countOf(COUNTER_listEntries, min(total, uint(grid.capacity)));
    }
#endif
    uint capacity = uint(grid.capacity), cells = uint(grid.columns * grid.rows * grid.slices);
    uint count = total;
    if (count > capacity) {
        shorten(words, lightCount, capacity, lane);
        if (lane == 0) {
            atomicAdd(overflow[2u * part], count - capacity);
            atomicAdd(overflow[2u * part + 1u], 1u);
        }
        count = capacity;
    }
    uint counts = part * cells * (1u + capacity);
    if (lane == 0) lists[counts + index] = count;
    if (count > 0u) {
        uint base = counts + cells + index * capacity;
        for (int w = lane; w < words; w += lanes) {
            uint bits = found[w];
            if (bits == 0u) continue;
            uint at = base;
            for (int b = 0; b < w; ++b)
                at += uint(bitCount(found[b]));
            while (bits != 0u) {
                int bit = findLSB(bits);
                bits &= bits - 1u;
                lists[at++] = uint(w * 32 + bit + grid.firstBounded);
            }
        }
    }
    barrier();
}

void main() {
    ivec2 tile = ivec2(gl_WorkGroupID.xy);
    ivec2 corner = tile * grid.tile;
    int lane = int(gl_LocalInvocationID.x);
    int lightCount = grid.lightCount - grid.firstBounded;
    // Every lane enters this loop: llvmpipe 22 leaves lanes switched off after a first loop that they never entered.
    for (int k = lane; k < max(lanes, maxSlices); k += lanes) {
        if (k >= maxSlices) break;
        nearBits[k] = noSample;
        farBits[k] = 0u;
        masks[k] = 0u;
    }
    if (lane == 0) {
        candidateCount = 0u;
        openPixels = 0u;
    }
    barrier();

    slopes = vec4(edgeX(corner.x), edgeX(corner.x + grid.tile), edgeY(corner.y + grid.tile), edgeY(corner.y));
    planes[0] = normalize(vec3(1.0, 0.0, slopes.x));
    planes[1] = normalize(vec3(-1.0, 0.0, -slopes.y));
    planes[2] = normalize(vec3(0.0, 1.0, slopes.z));
    planes[3] = normalize(vec3(0.0, -1.0, -slopes.w));
#ifdef COUNT
    if (lane == 0) countOf(COUNTER_sideTests, uint(lightCount + 7) / 8u * 8u);
#endif
    if (grid.depthBounds != 0) boundSlices(corner, lane);
    for (int l = lane; l < lightCount; l += lanes)
        if (insideSides(cullLights[l].bounds)) {
            uint at = atomicAdd(candidateCount, 1u);
            if (at < uint(maxCandidates)) candidates[at] = uint(l);
        }
    barrier();
    if (grid.depthBounds == 2) {
        markSamples(corner, lane);
        barrier();
    }

    float tileFar = 0.0;
    for (int slice = 0; slice < grid.slices; ++slice) {
        uint index = uint((slice * grid.rows + tile.y) * grid.columns + tile.x);
        if (grid.depthBounds == 0) sliceBounds(slice);
        else {
            if (farBits[slice] == 0u) { // no sample: nothing to shade here
                if (lane == 0) lists[index] = 0u;
                continue;
            }
            cellNear = uintBitsToFloat(nearBits[slice]);
            cellFar = uintBitsToFloat(farBits[slice]);
            cellMask = masks[slice];
            tileFar = max(tileFar, cellFar);
        }
        listCell(index, 0u, grid.depthBounds == 2, lane);
    }
    if (grid.transparent == 0) return;
    // Blended surfaces may stand anywhere before the farthest opaque sample; where a pixel is open, anywhere at all.
    if (grid.depthBounds == 0 || openPixels != 0u) tileFar = 1e30;
    for (int slice = 0; slice < grid.slices; ++slice) {
        uint index = uint((slice * grid.rows + tile.y) * grid.columns + tile.x);
        sliceBounds(slice);
        if (cellNear > tileFar * 1.0001) {
            if (lane == 0) lists[uint(grid.columns * grid.rows * grid.slices) * (1u + uint(grid.capacity)) + index] = 0u;
            continue;
        }
        cellFar = min(cellFar, tileFar * 1.0001);
        listCell(index, 1u, false, lane);
    }
}
