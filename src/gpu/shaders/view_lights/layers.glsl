#ifdef HAS_view_lights
#include "include/view_lights.glsl"
layout(std430) readonly buffer ViewLightBuffer { ViewLightData viewLights[]; };
layout(std430) readonly buffer ViewLightObjectBuffer { uint viewLightsOfObject[]; };
#endif
#ifdef HAS_solid_lights
#include "include/solid_lights.glsl"
#endif
/// What cheap lights change of a surface's light, as it reaches the eye; they come before panes and leave those alone.
vec4 layer_cheaplight(LayerInput i) {
    vec3 before = i.ambient + i.diffuse + i.specular + i.emissive, keeps = vec3(1.0), adds = vec3(0.0);
    if (i.blended) return vec4(0.0, 0.0, 0.0, i.alpha);
#ifdef HAS_solid_lights
    keeps = solidTint(i.position);
#endif
#ifdef HAS_view_lights
    if (!i.unlit)
        for (uint bits = viewLightsOfObject[i.object]; bits != 0u; bits &= bits - 1u) changeByViewLight(viewLights[findLSB(bits)], i.normal, keeps, adds);
#endif
    return vec4(dimmedByAir(before * keeps + adds - before, i.position), i.alpha);
}
