#version 450 core
// Optical depth from a height along an elevation to the air's end: numeric, outward from the ray's lowest point to both sides.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/atmosphere.glsl"
layout(location = 0) out vec4 outDepth;

vec3 depthOutward(AirPath path, float near, float far) {
    vec3 sum = vec3(0.0);
    float before = near;
    for (int i = 0; i < depthSteps; ++i) {
        float u = float(i + 1) / float(depthSteps), t = near + (far - near) * u * u * u;
        sum += mediumAt(heightAt(path, 0.5 * (before + t))).extinction * abs(t - before);
        before = t;
    }
    return sum;
}

void main() {
    vec2 at = depthHeightAndSine((gl_FragCoord.xy - 0.5) / (vec2(depthsSize) - 1.0));
    AirPath path = AirPath(at.x, max(at.y, horizonSine(at.x)));
    // Along the horizon itself the ground is only touched: the way on to the top.
    float r = groundRadius + path.height, along = r * path.sine, over = (topRadius - r) * (topRadius + r), root = sqrt(max(along * along + over, 0.0));
    float end = along > 0.0 ? over / (along + root) : root - along, lowest = clamp(-along, 0.0, end);
    outDepth = vec4(depthOutward(path, lowest, end) + depthOutward(path, lowest, 0.0), 1.0);
    countOf(COUNTER_skySteps, 2u * uint(depthSteps));
}
