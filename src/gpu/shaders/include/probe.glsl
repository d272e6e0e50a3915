// Surfaces that cover one pixel. C++ side: gpu/frame/gpu_structs.h (ProbeData), core/account/surface_sample.h.
struct ProbeSample {
    vec4 position;  // w: depth as the depth buffer holds it
    vec4 normal;    // w: alpha
    vec4 baseColor; // w: metallic
    vec4 emissive;  // w: roughness
    vec4 ambient;   // w: 1 where unlit
    vec4 mirrored;  // part of it; w: the material's occlusion
    vec4 reflected; // part of that; w: the screen's answer
    vec4 probes;    // part of ambient
    uint draw;
    uint triangle;
    float screenOcclusion;
    uint pad0;
};
layout(std430) buffer ProbeBuffer {
    uint probeCount;
    uint probePad[3];
    ProbeSample probe[];
};

layout(std430) buffer ProbeFactorBuffer { float probeFactors[]; }; // of each sample, what the slot of light factors leaves of each light
uniform uint probeLights;

void enterSample(Surface s, AmbientLeaves ambient, vec3 emissive, uint draw) {
    float screenOcclusion = 1.0;
#ifdef SLOT_OCCLUSION
    screenOcclusion = slotOcclusion(s.position, s.normal);
#endif
    float answer = 0.0;
#ifdef SLOT_REFLECTION
    answer = answerAt(ambient.share);
#endif
    uint at = atomicAdd(probeCount, 1u);
    if (at >= uint(probe.length())) return;
    probe[at] = ProbeSample(vec4(s.position, gl_FragCoord.z), vec4(s.normal, s.alpha), vec4(s.baseColor, s.metallic), vec4(emissive, s.roughness),
                            vec4(ambient.sum, s.unlit ? 1.0 : 0.0), vec4(ambient.mirrored, s.occlusion), vec4(ambient.reflected, answer), vec4(ambient.probes, 0.0), draw, uint(gl_PrimitiveID), screenOcclusion, 0u);
    for (uint l = 0u; l < probeLights; ++l) {
        float left = 1.0;
#ifdef SLOT_LIGHT_FACTOR
        LightData light = lights[l];
        vec3 toLight;
        normalIrradiance(light, s.position, toLight);
        left = slotLightFactor(l, light, s.position, s.normal, toLight).g;
#endif
        probeFactors[at * probeLights + l] = left;
    }
}
