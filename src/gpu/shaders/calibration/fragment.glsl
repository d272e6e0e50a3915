#version 450 core
// Known fragment work of calibration. WORK: 0 fill, 1 unfiltered reads, 2 the same far apart, 3 filtered reads, 4 arithmetic, 5 atomics; `rounds` of it a fragment.
uniform int rounds;
uniform sampler2D source;
layout(std430) buffer Counters { uint counters[1024]; };
layout(location = 0) out vec4 outColor;

void main() {
    ivec2 p = ivec2(gl_FragCoord.xy);
#if WORK == 0
    outColor = vec4(0.25, 0.5, 0.75, 0.5);
#elif WORK == 1 || WORK == 2
    ivec2 mask = textureSize(source, 0) - 1; // a power of two
    vec4 sum = vec4(0.0);
    for (int i = 0; i < rounds; ++i)
        sum += texelFetch(source, (WORK == 1 ? p + ivec2(i & 3, i >> 2) : ivec2(p.x * 97 + i * 191, p.y * 57 + i * 83)) & mask, 0);
    outColor = sum / float(rounds);
#elif WORK == 3
    vec2 uv = gl_FragCoord.xy / 200.0;
    vec4 sum = vec4(0.0);
    for (int i = 0; i < rounds; ++i)
        sum += texture(source, uv + float(i) * 0.37);
    outColor = sum / float(rounds);
#elif WORK == 4
    float x = gl_FragCoord.x * 0.001 + 0.37;
    for (int i = 0; i < rounds; ++i)
        x = x * 0.9991 + gl_FragCoord.y * 0.0007;
    outColor = vec4(x);
#else
    for (int i = 0; i < rounds; ++i)
        atomicAdd(counters[(p.x * 7 + p.y * 13 + i) & 1023], 1u);
    outColor = vec4(0.0);
#endif
}
