#version 450 core
// A layer of a Blocks stage: LAYER_FILE holds its function, vec4 layer_<name>(BlockPixel), LAYER_NAME calls it.
#include "blocks/target.glsl"
#include "blocks/shade.glsl"
#include "generated/block_layer.glsl"
layout(location = 0) out vec4 outLayer;
uniform vec2 shownScale; // pixels of the picture in one of the layer's

void main() {
    BlockPixel p;
    ivec2 at = min(ivec2(gl_FragCoord.xy * shownScale), ivec2(frame.width, frame.height) - 1);
    outLayer = readBlockPixel(at, p) ? LAYER(p) : vec4(0.0);
}
