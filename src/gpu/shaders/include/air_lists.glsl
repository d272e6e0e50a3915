// Lights of the columns of the view, for the air: lists of their own, which do not end where surfaces begin.
#include "include/grid_data.glsl"
layout(std430) readonly buffer AirGridBuffer { GridData airGridData; };
uniform usamplerBuffer airListTexels;

int airListSlice(float depth) {
    if (airGridData.slices <= 1 || depth <= airGridData.sliceNear) return 0;
    return clamp(int(log(depth / airGridData.sliceNear) / log(airGridData.sliceFar / airGridData.sliceNear) * float(airGridData.slices)), 0, airGridData.slices - 1);
}
/// The list of a place in the picture (pixels, from below) and a view depth, metres.
int airList(vec2 place, float depth) {
    ivec2 p = clamp(ivec2(int(place.x), frame.height - 1 - int(place.y)), ivec2(0), ivec2(frame.width, frame.height) - 1) / airGridData.tile;
    return (airListSlice(depth) * airGridData.rows + p.y) * airGridData.columns + p.x;
}
int airListCells() { return airGridData.columns * airGridData.rows * airGridData.slices; }
int airListStart() { return EYE * airGridData.eyeStride; }
uint airListCount(int list) { return texelFetch(airListTexels, airListStart() + list).r; }
uint airListLight(int list, uint k) { return texelFetch(airListTexels, airListStart() + airListCells() + list * airGridData.capacity + int(k)).r; }
uint airFirstBounded() { return uint(airGridData.firstBounded); }
uniform samplerBuffer airShares; // of each light, what of it the air shows
