// Probes as surfaces ask them. The reference in double is src/core/ambient/probe.h; C++ side of the buffer: gpu/passes/probes.cpp.
struct LightProbe {
    vec4 place;  // of the capture, metres; w: metres outside the box's sides over which it comes in
    vec4 center; // of the box, metres; w: share that it takes where it is whole
    vec4 extent;  // of the box, metres from its middle; w: what the cubes of lobes are divided by
    vec4 turn;   // cosine and sine
    vec4 harmonics[9]; // irradiance over pi by normal, cd/m2
};
layout(std430) readonly buffer LightProbeBuffer { LightProbe lightProbes[]; };

vec3 directionInProbe(LightProbe p, vec3 d) {
    return vec3(p.turn.x * d.x - p.turn.y * d.z, d.y, p.turn.y * d.x + p.turn.x * d.z);
}

/// Share that a probe would take of what arrives at a point.
float probeClaim(uint i, vec3 point) {
    const float skin = 0.01; // metres
    vec3 beyond = abs(directionInProbe(lightProbes[i], point - lightProbes[i].center.xyz)) - lightProbes[i].extent.xyz;
    float outside = max(beyond.x, max(beyond.y, beyond.z)) - skin, blend = lightProbes[i].place.w, weight = lightProbes[i].center.w;
    if (outside <= 0.0) return weight;
    return blend > 0.0 ? weight * max(0.0, 1.0 - outside / blend) : 0.0;
}
