#version 450 core
// A texel as it is, or with its colour times its alpha: a peeled layer, or the sum of layers.
uniform sampler2D peeled;
uniform int premultiply;
layout(location = 0) out vec4 outColor;

void main() {
    vec4 v = texelFetch(peeled, ivec2(gl_FragCoord.xy), 0);
    outColor = premultiply == 1 ? vec4(v.rgb * v.a, v.a) : v;
}
