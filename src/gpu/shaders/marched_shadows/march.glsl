// Whether a wall stands in a cell on the way from a point to a light: cell by cell, none left out (J. Amanatides and A. Woo, A
// Fast Voxel Traversal Algorithm for Ray Tracing, 1987).
#include "include/flat.glsl"
#include "include/occluder_grid.glsl"
#include "include/plane_body.glsl"
uniform sampler2D flatOccluders;

float marchFactor(uint light, vec2 point) {
    FlatLightData l = flatLights[light];
    if (l.casts == 0u) return 1.0;
    ivec2 size = textureSize(flatOccluders, 0);
    vec2 from = gridAt(point, size);
    vec2 to = l.kind == 0 ? from - l.direction / max(length(l.direction), 1e-6) * float(size.x + size.y)
                          : gridAt(l.place, size);
    vec2 way = to - from;
    ivec2 cell = ivec2(floor(from)), last = ivec2(floor(to)), stepped = ivec2(sign(way));
    vec2 delta = 1.0 / max(abs(way), vec2(1e-9)), next = mix(from - vec2(cell), vec2(cell) + 1.0 - from, greaterThan(way, vec2(0.0))) * delta;
    // Units that the way rises by, for each cell along it.
    float units = (parameters.flatGrid.z - parameters.flatGrid.x) / float(size.x);
    float rise = l.kind == 0 ? max(-l.rise, 0.0) / max(length(l.direction), 1e-6) * units : max(1.0, l.height) / max(length(way), 1e-6);
    float open = 1.0;
    uint taken = 0u;
    for (int left = abs(last.x - cell.x) + abs(last.y - cell.y); left > 0; --left) {
        if (!inGrid(cell, size)) break;
        ++taken;
        int body = int(texelFetch(flatOccluders, cell, 0).r);
        if (body > 0) {
            // Light comes down from over the wall's top, if that ends below it: `rise` of the way to here.
            float height = bodies[body - 1].reflects.a;
            if (height <= 0.0 || length(vec2(cell) + 0.5 - from) * rise < height) {
                open = 0.0;
                break;
            }
        }
        if (next.x < next.y) {
            cell.x += stepped.x;
            next.x += delta.x;
        } else {
            cell.y += stepped.y;
            next.y += delta.y;
        }
    }
    countOf(COUNTER_cellsMarched, taken);
    return open;
}
