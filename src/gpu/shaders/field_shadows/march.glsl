// How much of a light a distance field lets through to a point: it steps toward the light as far as nothing can be in the
// way (J. Hart, Sphere Tracing, 1996); with penumbrae the closest that the way comes to a wall, over how wide the light is
// there, is what is left of it.
#include "include/flat.glsl"
#include "include/occluder_grid.glsl"
uniform sampler2D flatField;

float fieldFactor(uint light, vec2 point) {
    FlatLightData l = flatLights[light];
    if (l.casts == 0u) return 1.0;
    ivec2 size = textureSize(flatField, 0);
    float cells = float(size.y);
    vec2 from = gridAt(point, size);
    vec2 to = l.kind == 0 ? from - l.direction / max(length(l.direction), 1e-6) * 2.0 * float(size.x + size.y)
                          : gridAt(l.place, size);
    float whole = distance(from, to);
    if (whole < 1.0) return 1.0;
    vec2 way = (to - from) / whole;
    // How wide the light is at the far end of the way; of directional lights it is an angle.
    float wide = l.kind == 0 ? l.size * whole : l.size * cells / (parameters.flatGrid.w - parameters.flatGrid.y);
    float t = 0.0, open = 1.0;
    int most = int(parameters.fieldShape.y), taken = 0;
    for (; taken < most && t < whole - 1.0; ++taken) {
        ivec2 cell = ivec2(floor(from + way * t));
        if (!inGrid(cell, size)) break;
        float d = texelFetch(flatField, cell, 0).r * cells;
        if (d < 0.5) {
            open = 0.0;
            break;
        }
        if (parameters.fieldShape.x != 0.0 && t > 1.0 && wide > 0.0)
            open = min(open, max(d - 0.5, 0.0) / (0.5 * wide * t / whole));
        t += max(d - 0.7, 0.5);
    }
    countOf(COUNTER_fieldSteps, uint(taken));
    return taken == most && t < whole - 1.0 ? 0.0 : open;
}
