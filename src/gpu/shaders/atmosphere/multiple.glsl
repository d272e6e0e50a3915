#version 450 core
// Light scattered twice and more, as an even radiance for 1 lux above the air, by the sun's sine and the height: what comes after one
// scattering or reflection, and the share of an even radiance that scatters once more; the series sums to L / (1 - f).
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/atmosphere.glsl"
layout(location = 0) out vec4 outEven;

void main() {
    vec2 place = (gl_FragCoord.xy - 0.5) / float(multipleSize - 1);
    float sine = sunSine(place.x), height = place.y * place.y * (topRadius - groundRadius);
    vec3 toSun = vec3(sqrt(max(0.0, 1.0 - sine * sine)), sine, 0.0), second = vec3(0.0), again = vec3(0.0);
    for (int n = 0; n < 64; ++n) {
        vec3 d = evenDirection(n >> 3, n & 7, 8, 8);
        AirPath path = AirPath(height, d.y);
        float end = pathEnd(path), cosine = dot(d, toSun), before = 0.0;
        vec3 through = vec3(1.0);
        for (int i = 0; i < multipleSteps; ++i) {
            float u = float(i + 1) / float(multipleSteps), t = end * u * u * u, at = 0.5 * (before + t), dt = t - before;
            float h = heightAt(path, at);
            Medium m = mediumAt(h);
            vec3 part = exp(-m.extinction * dt), taken = through * (1.0 - part) * (m.rayleigh + m.mie) / max(m.extinction, vec3(1e-12));
            second += taken / (4.0 * PI_SKY) * discTransmittance(h, sineAt(path, at, h, toSun.y, cosine), fixedSunAngle);
            again += taken;
            through *= part;
            before = t;
        }
        if (meetsGround(path)) {
            float there = sineAt(path, end, 0.0, toSun.y, cosine);
            second += through * discTransmittance(0.0, there, fixedSunAngle) * (max(there, 0.0) * parameters.skyOzone.w / PI_SKY);
            again += through * parameters.skyOzone.w;
        }
    }
    outEven = vec4(second / 64.0 / max(1.0 - again / 64.0, vec3(1e-3)), 1.0);
    countOf(COUNTER_skySteps, 64u * uint(multipleSteps));
}
