#version 450 core
// Lux of the whole sky on level ground for 1 lux above the air, by the sun's sine: directions of even solid angle over the upper half.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/atmosphere.glsl"
layout(location = 0) out vec4 outLight;

void main() {
    float sine = sunSine((gl_FragCoord.x - 0.5) / float(groundSize - 1));
    SkyBody sun = SkyBody(vec3(sqrt(max(0.0, 1.0 - sine * sine)), sine, 0.0), fixedSunAngle, vec3(1.0));
    vec3 sum = vec3(0.0);
    for (int n = 0; n < 12 * 24; ++n) {
        vec3 d = evenDirection(n / 24, n % 24, 24, 24);
        AirPath path = AirPath(0.0, d.y);
        float end = pathEnd(path), cosine = dot(d, sun.direction), before = 0.0;
        vec3 through = vec3(1.0), arrives = vec3(0.0);
        for (int i = 0; i < multipleSteps; ++i) {
            float u = float(i + 1) / float(multipleSteps), t = end * u * u * u, at = 0.5 * (before + t), dt = t - before;
            float h = heightAt(path, at);
            Medium m = mediumAt(h);
            vec3 part = exp(-m.extinction * dt);
            arrives += through * scatteredOf(sun, m, path, at, h, cosine) * (1.0 - part) / max(m.extinction, vec3(1e-12));
            through *= part;
            before = t;
        }
        sum += arrives * d.y;
    }
    outLight = vec4(sum * (2.0 * PI_SKY / (12.0 * 24.0)), 1.0);
    countOf(COUNTER_skySteps, 288u * uint(multipleSteps));
}
