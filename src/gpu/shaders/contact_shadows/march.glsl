// The share of a light that what stands close by leaves, as far as the picture shows it. A light without a shadow map casts nothing.
// CONTACT_STEPS: depths read on the way.
#include "shadow_maps/lookup.glsl"
uniform sampler2D contactDepth; // metres along the view's axis; 0: no surface

#ifndef CONTACT_STEPS // of a shader that lights nothing
#define CONTACT_STEPS 1
#endif

vec3 contactFactor(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight) {
    float left = 1.0;
    for (int mapped = receivesShadows ? int(texelFetch(shadowTexels, int(light) * 3).y) : 0; mapped > 0; mapped = 0) {
        float reach = parameters.contact.x, away = viewDepthOf(point);
        float slack = 0.002 * away; // metres: what depths tell apart, and a surface's own steps
        if ((data.type & 3) != 0) reach = min(reach, length(data.position - point));
        vec3 from = point + normal * slack, stride = toLight * (reach / float(CONTACT_STEPS));
        float share = evenNoise(gl_FragCoord.xy);
        bool hit = false;
        for (int i = 0; i < CONTACT_STEPS && !hit; ++i) {
            vec4 clip = frame.viewProjection * vec4(from + stride * (float(i) + share), 1.0);
            countOf(COUNTER_contactSteps, 1u);
            if (clip.w <= frame.forward.w || max(abs(clip.x), abs(clip.y)) > clip.w) break;
            ivec2 texel = ivec2((clip.xy / clip.w * 0.5 + 0.5) * vec2(frame.width, frame.height));
            float seen = texelFetch(contactDepth, min(texel, ivec2(frame.width, frame.height) - 1), 0).r;
            float behind = clip.w - seen;
            hit = seen > 0.0 && behind > slack && behind < parameters.contact.y;
        }
        if (hit) left = 1.0 - texelFetch(shadowTexels, int(light) * 3 + 1).x;
    }
    return vec3(left);
}
