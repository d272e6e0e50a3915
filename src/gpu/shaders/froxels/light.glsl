#version 450 core
// Light that each cell of air sends toward the eye: of lamps by the lists, through their shadows; of everywhere; its own. One lane a cell.
//   AIR_HISTORY  mixes with what the cell's place held last frame (AIR_REPROJECT: where the eye saw it), but where a light has changed
//   LEDGER       no picture: what each light's part adds to the picture
//   AIR_SHADOWS, AIR_VOLUMES
layout(local_size_x = 8, local_size_y = 8) in;
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "froxels/from_light.glsl"
layout(rgba16f) uniform writeonly image2D airCellsImage;
#ifdef AIR_HISTORY
uniform sampler2D airCellsPrevious;
layout(std430) readonly buffer AirBeforeBuffer { // the eye last frame, and where a light has changed since
    mat4 viewProjectionBefore;
    vec4 eyeBefore;
    int changed; // spheres; -1: all has changed
    int pad0, pad1, pad2;
    vec4 spheres[64];
};

/// What the place held last frame; a < 0: it was out of sight.
vec4 heldBefore(vec3 point) {
    vec4 clip = viewProjectionBefore * vec4(point, 1.0);
    float metres = distance(point, eyeBefore.xyz);
    vec2 place = clip.xy / clip.w * 0.5 + 0.5;
    if (clip.w <= 0.0 || metres > parameters.airDepths.x || any(lessThan(place, vec2(0.0))) || any(greaterThan(place, vec2(1.0)))) return vec4(-1.0);
    vec2 column = clamp(place * vec2(frame.width, frame.height) / parameters.airDepths.z, vec2(0.5), vec2(froxelColumns(), froxelRows()) - 0.5);
    float slice = clamp(airSliceAt(metres) - 0.5, 0.0, parameters.airGrid.z - 1.0);
    int near = int(slice), far = min(near + 1, froxelSlices() - 1);
    vec4 a = textureLod(airCellsPrevious, (vec2(airSliceOrigin(near)) + column) / airTargetSize(), 0.0);
    vec4 b = textureLod(airCellsPrevious, (vec2(airSliceOrigin(far)) + column) / airTargetSize(), 0.0);
    return mix(a, b, fract(slice));
}
#endif
#ifdef LEDGER
uniform sampler2D airSums;
uniform sampler2D ledgerDepth;

/// How much the picture shows of a metre's light here, summed over its pixels: those that lie in the cell or behind it, sixteen of them asked.
float shownByPixels(AirCell c, ivec2 column, int slice, float extinction) {
    float before = slice == 0 ? 1.0 : texelFetch(airSums, airSliceOrigin(slice - 1) + column, 0).a, cell = parameters.airDepths.z, sum = 0.0;
    for (int i = 0; i < 16; ++i) {
        ivec2 pixel = ivec2((vec2(column) + (vec2(i & 3, i >> 2) + 0.5) * 0.25) * cell);
        if (pixel.x >= frame.width || pixel.y >= frame.height) continue;
        float d = texelFetch(ledgerDepth, pixel, 0).r;
        sum += 0.0625 * cell * cell * shownOf(c, before, extinction, d > 0.0 ? frame.forward.w / d / dot(c.way, frame.forward.xyz) : 1e9);
    }
    return sum;
}
#endif

void main() {
    ivec2 column = ivec2(gl_GlobalInvocationID.xy);
    int slice = int(gl_GlobalInvocationID.z);
    if (column.x >= froxelColumns() || column.y >= froxelRows()) return;
    AirCell c = airCellOf(column, slice, 0.5 + parameters.airHistory.y);
    float extinction;
    vec3 scattering, own, sum = vec3(0.0);
    airAt(c.point, extinction, scattering, own);
    countOf(COUNTER_airCells, 1u);
#ifdef LEDGER
    float shown = shownByPixels(c, column, slice, extinction);
#endif
    int list = airList((vec2(column) + 0.5) * parameters.airDepths.z, dot(c.point - frame.eye.xyz, frame.forward.xyz));
    uint first = airFirstBounded(), count = scattering.r + scattering.g + scattering.b > 0.0 ? first + airListCount(list) : 0u;
    for (uint k = 0u; k < count; ++k) {
        uint index = k < first ? k : airListLight(list, k - first);
        vec3 light = fromLight(index, c);
        sum += light;
#ifdef LEDGER
        enterAir(index, light * scattering * shown);
#endif
    }
#ifndef LEDGER
    vec4 light = vec4(min(scattering * (sum + parameters.airAmbient.xyz) + own, vec3(60000.0)), extinction); // what half floats hold
#ifdef AIR_HISTORY
    vec3 middle = airCellOf(column, slice, 0.5).point;
#ifdef AIR_REPROJECT
    vec4 held = heldBefore(middle);
#else
    vec4 held = texelFetch(airCellsPrevious, airSliceOrigin(slice) + column, 0);
#endif
    float share = held.a < 0.0 || changed < 0 ? 1.0 : parameters.airHistory.x, wide = 0.5 * (c.across + c.metres);
    for (int i = 0; i < changed && share < 1.0; ++i)
        if (distance(middle, spheres[i].xyz) < spheres[i].w + wide) share = 1.0;
    light = mix(held, light, share);
#endif
    imageStore(airCellsImage, airSliceOrigin(slice) + column, light);
#endif
}
