// The screen's answer for a surface, premultiplied by how sure it is (alpha): sharp, or of a mip as wide as its lobe falls on the mirror image.
#include "include/shown.glsl"
#include "reflection/answers.glsl"
uniform sampler2D reflectionPicture; // with mips
uniform sampler2D reflectionHits;
#ifdef REFLECTION_HALF
uniform sampler2D reflectionDepth;
#endif

/// Of a target of half size: the four texels around, those whose surface lies in the plane of this one.
vec4 reflectionAt(vec3 point, vec3 n, float level) {
    vec2 texel = vec2(shownPixel()) + 0.5;
#ifdef REFLECTION_HALF
    if (level < 1.0) {
        ivec2 size = (ivec2(frame.width, frame.height) + 1) / 2;
        vec2 at = texel * 0.5 - 0.5, part = fract(at);
        ivec2 base = ivec2(floor(at));
        vec4 sum = vec4(0.0);
        float weights = 0.0;
        for (int i = 0; i < 4; ++i) {
            ivec2 corner = ivec2(i & 1, i >> 1), there = clamp(base + corner, ivec2(0), size - 1), pixel = min(2 * there + (there.yx & 1), ivec2(frame.width, frame.height) - 1);
            vec4 clip = vec4((vec2(pixel) + 0.5) / vec2(frame.width, frame.height) * 2.0 - 1.0, texelFetch(reflectionDepth, pixel, 0).r, 1.0);
            if (clip.z <= 0.0) continue;
            vec4 world = frame.inverseViewProjection * clip;
            float off = abs(dot(world.xyz / world.w - point, n)) / max(0.002 * length(point - frame.eye.xyz), 1e-6);
            vec2 share = mix(1.0 - part, part, vec2(corner));
            float weight = (share.x * share.y + 1e-3) * exp2(-off * off);
            sum += texelFetch(reflectionPicture, there, 0) * weight;
            weights += weight;
        }
        return weights > 1e-4 ? sum / weights : vec4(0.0);
    }
#endif
    return textureLod(reflectionPicture, texel / vec2(frame.width, frame.height), level);
}

vec4 reflectedOnScreen(vec3 point, vec3 n, vec3 toEye, float roughness) {
    if (!isShown()) return vec4(0.0);
    ivec2 texel = shownPixel();
#ifdef REFLECTION_HALF
    texel /= 2;
#endif
    vec4 hit = texelFetch(reflectionHits, texel, 0);
    float level = 0.0;
#ifdef REFLECTION_BY_ROUGHNESS
    // Half of a lobe lies within this slope about the mirrored ray; the mirror image stands as far behind the surface as the hit before it.
    float metres = dot(point - frame.eye.xyz, frame.forward.xyz), spread = roughness * roughness * (hit.w == ANSWER_HIT ? hit.z / (hit.z + metres) : 0.5);
    level = clamp(log2(max(spread * parameters.reflectionMask.z, 1.0)), 0.0, 8.0);
#ifdef REFLECTION_HALF
    level = max(level - 1.0, 0.0);
#endif
#endif
    return reflectionAt(point, n, level);
}

/// What came of the ray of a surface that mirrors.
float answerAt(vec3 share) {
    if (!isShown() || dot(share, share) <= 0.0) return ANSWER_NOT_ASKED;
    ivec2 texel = shownPixel();
#ifdef REFLECTION_HALF
    texel /= 2;
#endif
    return texelFetch(reflectionHits, texel, 0).w;
}
