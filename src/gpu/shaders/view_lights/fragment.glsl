#version 450 core
// View-locked lights over the surfaces that have them: the picture is multiplied with what they keep, and takes what they add.
// VIEW_LIGHTS: how many; VIEW_SOME: not all lie on every object.
#undef LEDGER // its share is measured from outside, with this shader as it is
#include "include/structs.glsl"
#if defined(COUNT) && !defined(ALPHA_MASK)
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/air.glsl"
#include "include/surface.glsl"
#include "include/view_lights.glsl"
uniform vec4 viewLights[8 * VIEW_LIGHTS]; // ViewLightData each: read for the whole draw at once, not by every lane
uniform uint lightMask;                   // those that are drawn
#ifdef VIEW_SOME
layout(std430) readonly buffer ViewLightObjectBuffer { uint viewLightsOfObject[]; }; // a bit for each that lies on the object
#endif
layout(location = 0, index = 0) out vec4 outAdds;
layout(location = 0, index = 1) out vec4 outKeeps;

void main() {
    MaterialData m = materials[draws[vertex.draw].material];
#ifdef ALPHA_MASK
    if ((m.flags & 1u) != 0u && readBase(m).a < m.alphaCutoff) discard;
#endif
    countWork(0u);
    vec3 keeps = vec3(1.0), adds = vec3(0.0);
    if ((m.flags & 2u) == 0u) { // an unlit surface shows its colour as it is
        countReads(NORMAL_MAPS == 1 && (m.flags & 4u) != 0u ? 1u : 0u);
        vec3 normal = readNormal(m);
        uint bits = lightMask;
#ifdef VIEW_SOME
        bits &= viewLightsOfObject[draws[vertex.draw].object];
#endif
        for (int i = 0; i < VIEW_LIGHTS; ++i) {
            if ((bits >> i & 1u) == 0u) continue;
            const int at = 8 * i;
            changeByViewLight(ViewLightData(viewLights[at], vec4[4](viewLights[at + 1], viewLights[at + 2], viewLights[at + 3], viewLights[at + 4]),
                                            viewLights[at + 5], viewLights[at + 6], viewLights[at + 7]), normal, keeps, adds);
        }
#ifdef SLOT_AIR
        vec3 transmittance, scattered;
        airBefore(vertex.position, false, transmittance, scattered);
        adds = adds * transmittance + scattered * (1.0 - keeps);
#endif
    }
    outAdds = vec4(adds, 0.0);
    outKeeps = vec4(keeps, 1.0);
}
