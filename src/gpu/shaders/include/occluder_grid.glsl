// Where a place lies in the small picture of walls; core/flat/occluder_picture.h says what stands in its cells.
#ifndef OCCLUDER_GRID_GLSL
#define OCCLUDER_GRID_GLSL
/// In cells from its lower left corner.
vec2 gridAt(vec2 point, ivec2 size) {
    return (point - parameters.flatGrid.xy) / (parameters.flatGrid.zw - parameters.flatGrid.xy) * vec2(size);
}
bool inGrid(ivec2 cell, ivec2 size) {
    return all(greaterThanEqual(cell, ivec2(0))) && all(lessThan(cell, size));
}
#endif
