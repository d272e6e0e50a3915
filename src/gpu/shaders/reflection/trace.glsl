#version 450 core
// Mirrored rays through the picture's depth (M. McGuire and M. Mara, Efficient GPU Screen-Space Ray Tracing, 2014): even steps along the ray's line
// on the screen and then halvings; or (HIERARCHICAL) pixel by pixel, where tiles of nearest depths are passed at once (Y. Uludag, 2014).
// HALF: at the pixel that stands for four.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/screen.glsl"
#include "reflection/answers.glsl"
#include "shadow_maps/noise.glsl"

uniform sampler2D reflectionMask;
#ifdef HIERARCHICAL
uniform sampler2D nearestDepths; // mips of the nearest metres
#endif
layout(location = 0) out vec4 outHit; // pixel; metres along the ray; an answer

/// A ray as it lies on the screen: pixels and one over metres along the view's axis change evenly along it.
struct ScreenRay {
    vec2 from, way;   // pixels, at 0 and to 1
    float near_, far; // 1 / metres at 0 and at 1
};
float metresOf(ScreenRay r, float s) { return 1.0 / mix(r.near_, r.far, s); }

/// True where the ray, which lies between two metres over a pixel, meets what the picture shows there. behind: it passes behind it.
bool meets(ivec2 pixel, float before, float after, float slack, out bool behind) {
    float there = metresAt(pixel), least = min(before, after), most = max(before, after);
    behind = there > 0.0 && least > there + parameters.reflectionTrace.y;
    return there > 0.0 && most >= there + slack && !behind;
}

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy), pixel = texel;
#ifdef HALF
    pixel = pixelOfHalf(texel);
#endif
    countOf(COUNTER_fragments, 1u);
    outHit = vec4(0.0, 0.0, 0.0, ANSWER_NOT_ASKED);
    if (texelFetch(reflectionMask, texel, 0).r <= 0.0) return;
    countOf(COUNTER_reflectionRays, 1u);
    PixelRays rays = pixelRays();
    float metres = metresAt(pixel), reach = parameters.reflectionTrace.x;
    vec3 away = awayAt(rays, pixel, metres), normal = normalAt(pixel), to = reflect(normalize(away), normal);
    // From a little before the surface, as far as depth tells it from itself; it ends before it passes the eye.
    float slack = 0.001 * metres, forward = dot(to, frame.forward.xyz);
    vec3 start = away + normal * (2.0 * slack);
    float from = dot(start, frame.forward.xyz);
    if (forward < 0.0) reach = min(reach, 0.98 * (from - frame.forward.w) / -forward);
    vec4 a = frame.viewProjection * vec4(frame.eye.xyz + start, 1.0), b = frame.viewProjection * vec4(frame.eye.xyz + start + to * reach, 1.0);
    vec2 size = vec2(frame.width, frame.height), p = (a.xy / a.w * 0.5 + 0.5) * size, q = (b.xy / b.w * 0.5 + 0.5) * size;
    ScreenRay ray = ScreenRay(p, q - p, 1.0 / a.w, 1.0 / b.w);
    // The part on the picture.
    vec2 room = mix(p, size - p, step(0.0, ray.way));
    float onPicture = min(abs(ray.way.x) > 1e-5 ? room.x / abs(ray.way.x) : 1e9, abs(ray.way.y) > 1e-5 ? room.y / abs(ray.way.y) : 1e9);
    float last = min(onPicture, 1.0), pixels = max(abs(ray.way.x), abs(ray.way.y));
    float none = onPicture < 1.0 ? ANSWER_LEFT : forward < 0.0 && reach < parameters.reflectionTrace.x ? ANSWER_TOWARD_EYE : ANSWER_TOO_FAR;
    int most = int(parameters.reflectionTrace.z);
    uint reads = 0u;
    bool behind = false, passed = false;
    float found = -1.0;
#ifdef HIERARCHICAL
    const float nudge = 0.002; // pixels beyond a tile's border
    int level = 0, top = int(parameters.reflectionUse.z);
    float s = min(1.5 / max(pixels, 1.0), last); // out of its own pixel
    for (int i = 0; i < most && s < last; ++i) {
        vec2 at = ray.from + ray.way * s;
        ivec2 tile = ivec2(at) >> level;
        vec2 low = vec2(tile << level), high = low + float(1 << level);
        vec2 border = mix(low - nudge, high + nudge, step(0.0, ray.way));
        vec2 t = vec2(abs(ray.way.x) > 1e-5 ? (border.x - ray.from.x) / ray.way.x : 1e9, abs(ray.way.y) > 1e-5 ? (border.y - ray.from.y) / ray.way.y : 1e9);
        float next = min(max(min(t.x, t.y), s + 1e-6), last), before = metresOf(ray, s), after = metresOf(ray, next);
        ++reads;
        float nearest = texelFetch(nearestDepths, min(tile, textureSize(nearestDepths, level) - 1), level).r;
        if (max(before, after) < nearest) {
            s = next;
            level = min(level + 1, top);
        } else if (level > 0)
            --level;
        else {
            if (meets(ivec2(at), before, after, slack, behind)) {
                found = 0.5 * (s + next);
                break;
            }
            passed = passed || behind;
            s = next;
        }
    }
    if (found < 0.0 && s < last) none = ANSWER_TOO_FAR;
#else
    float count = float(min(most, int(ceil(pixels * last))));
    float before = 0.0, metresBefore = from, offset = evenNoise(vec2(texel));
    for (float i = 0.0; i < count; i += 1.0) {
        float s = last * min((i + 0.25 + 0.75 * offset) / count, 1.0), after = metresOf(ray, s);
        ++reads;
        if (meets(ivec2(ray.from + ray.way * s), metresBefore, after, slack, behind)) {
            float low = before, high = s;
            for (int r = 0; r < int(parameters.reflectionTrace.w); ++r) {
                float middle = 0.5 * (low + high), there = metresAt(ivec2(ray.from + ray.way * middle));
                ++reads;
                if (there > 0.0 && metresOf(ray, middle) >= there + slack)
                    high = middle;
                else
                    low = middle;
            }
            float there = metresAt(ivec2(ray.from + ray.way * high)), apart = metresOf(ray, high) - there;
            if (there > 0.0 && apart <= parameters.reflectionTrace.y) {
                found = high;
                break;
            }
            passed = true;
        }
        passed = passed || behind;
        before = s;
        metresBefore = after;
    }
#endif
    countOf(COUNTER_reflectionReads, reads);
    if (found < 0.0) {
        outHit.w = passed && none != ANSWER_TOO_FAR ? ANSWER_HIDDEN : none;
        return;
    }
    ivec2 there = ivec2(ray.from + ray.way * found);
    if (dot(normalAt(there), to) > 0.05) { // its back: the picture shows another side
        outHit.w = ANSWER_BACK;
        return;
    }
    // What is shown there lies beside the ray by no more than it may be thick, and near the surface by far less.
    vec3 apart = awayAt(rays, there, metresAt(there)) - away;
    float along = dot(apart, to);
    if (along <= 0.0 || length(apart - to * along) > min(parameters.reflectionTrace.y, 0.02 + 0.15 * along)) {
        outHit.w = ANSWER_HIDDEN;
        return;
    }
    countOf(COUNTER_reflectionHits, 1u);
    outHit = vec4(vec2(there) + 0.5, length(apart), ANSWER_HIT);
}
