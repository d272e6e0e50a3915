#version 450 core
// A sprite's or a tile's pixel, unlit; with SURFACE what lights ask of it, with GLOW what it gives off itself.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "flat_stage/quad.glsl"
uniform sampler2D sheet;
uniform sampler2D sheetNormals;
uniform sampler2D sheetEmission;
in vec2 uv;
flat in uint quadOfFragment;
layout(location = 0) out vec4 outColor;
#ifdef SURFACE
layout(location = SURFACE) out vec4 outSurface;
#endif
#ifdef GLOW
layout(location = GLOW) out vec4 outGlow;
#endif

void main() {
    countWork(0u);
    Quad q = quads[quadOfFragment];
    vec4 color = texture(sheet, uv) * q.tint;
    outColor = color;
#ifdef SURFACE
    // Codes do not blend: what covers at least half of the pixel says what it is.
    vec3 n = (q.flags & 2u) != 0u ? texture(sheetNormals, uv).xyz * (255.0 / 127.0) - 128.0 / 127.0 : vec3(0.0, 0.0, 1.0);
    n.xy *= q.glow.y;
    n = normalize(vec3(n.xy, max(n.z, 1e-3)));
    vec2 turned = n.x * normalize(q.right) + n.y * normalize(q.up);
    uint code = q.layer | (q.flags & 1u) << 5 | (q.flags & 8u) << 3;
    outSurface = vec4((turned * 127.0 + 128.0) / 255.0, float(code) / 255.0, color.a >= 0.5 ? 1.0 : 0.0);
#endif
#ifdef GLOW
    outGlow = vec4((q.flags & 4u) != 0u ? texture(sheetEmission, uv).rgb * q.glow.x * q.tint.rgb : vec3(0.0), color.a);
#endif
}
