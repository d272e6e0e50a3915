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
    vec4 baked;     // sent on of light from a map; w: 1 where the surface has a place in one
    uint draw;
    uint triangle;
    float screenOcclusion;
    float thickness;
};
layout(std430) buffer ProbeBuffer {
    uint probeCount;
    uint probePad[3];
    ProbeSample probe[];
};

// Of each sample and light what the slot of light factors leaves, metres that it goes through the thing, what is left of it where it goes in.
layout(std430) buffer ProbeFactorBuffer { vec4 probeFactors[]; };
uniform uint probeLights;

void enterSample(Surface s, vec3 toEye, AmbientLeaves ambient, vec3 emissive, vec3 baked, uint draw) {
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
                            vec4(ambient.sum, s.unlit ? 1.0 : 0.0), vec4(ambient.mirrored, s.occlusion), vec4(ambient.reflected, answer), vec4(ambient.probes, 0.0), vec4(baked, lightMapped ? 1.0 : 0.0), draw, uint(gl_PrimitiveID), screenOcclusion, s.thickness);
    LitSurface lit = LitSurface(s.position, s.normal, toEye, s.baseColor, s.metallic, s.roughness, s.optics, s.thickness, s.alpha, draw, 0.0, s.unlit);
    for (uint l = 0u; l < probeLights; ++l) {
        vec4 told = vec4(1.0, -1.0, 0.0, 0.0);
        LightData light = lights[l];
        vec3 toLight;
        normalIrradiance(light, s.position, toLight);
#ifdef SLOT_LIGHT_FACTOR
        told.x = lightLeft(l, light, lit, toLight).g;
#endif
#ifdef SUBSURFACE_THICKNESS
        told.yz = wayThrough(l, light, lit, toLight);
#endif
        probeFactors[at * probeLights + l] = told;
    }
}
