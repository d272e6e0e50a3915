#version 450 core
// Known work for the clock's acceptance test: `rounds` dependent operations a pixel.
uniform int rounds;
layout(location = 0) out vec4 outColor;

void main() {
    float x = gl_FragCoord.x * 0.001 + 0.37;
    for (int i = 0; i < rounds; ++i)
        x = fract(x * 3.83 + gl_FragCoord.y * 0.0007);
    outColor = vec4(x);
}
