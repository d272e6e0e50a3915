// Radiance cascades in the plane; core/flat/cascades.h says how levels lie.
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/flat.glsl"
#include "include/occluder_grid.glsl"
const float TURN = 6.2831853072;
int levels() { return int(parameters.cascadeShape.x); }
int firstRays() { return int(parameters.cascadeShape.y); }
/// Blocks of level 0's directions side by side and one above the other.
ivec2 firstBlocks() { return ivec2(firstRays() == 4 ? 2 : 4, firstRays() == 16 ? 4 : 2); }
vec2 direction(int number, int count) {
    float angle = (float(number) + 0.5) / float(count) * TURN;
    return vec2(cos(angle), sin(angle));
}
