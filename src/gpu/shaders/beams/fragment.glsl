#version 450 core
// What a side of a beam shows. BEAM_TEXTURE: drifting patches tear it; HALO: round ones.
// The reference in double is src/core/air/beams.h.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/light.glsl"
#ifdef BEAM_TEXTURE
#include "include/air_noise.glsl"
#endif
#include "include/air.glsl"
#include "beams/interface.glsl"
uniform sampler2D depthTexture;
in vec3 at;
flat in int beam;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    countOf(COUNTER_beamFragments, 1u);
    BeamData b = beams[beam];
    vec3 way = at - frame.eye.xyz, point = at;
    float metres = length(way), profile, thickness, share;
    vec3 d = way / metres;
    float held = texelFetch(depthTexture, ivec2(gl_FragCoord.xy), 0).r, surface = held > 0.0 ? frame.forward.w / held / dot(d, frame.forward.xyz) : 1e9;
#ifdef HALO
    vec3 w = frame.eye.xyz - b.tip.xyz;
    metres = -dot(w, d);
    float beside = length(w + d * metres), end = max(1.0 - beside / b.tip.w, 0.0);
    point = frame.eye.xyz + d * metres;
    profile = 3.1415927 / max(beside, 0.03 * b.tip.w) * end * end;
    thickness = b.intensity.w * b.tip.w * end * end;
    share = clamp((surface - metres + b.tip.w) / (2.0 * b.tip.w), 0.0, 1.0);
#else
    float along = dot(at - b.tip.xyz, b.axis.xyz);
    vec3 beside = at - b.tip.xyz - b.axis.xyz * along;
    vec3 normal = normalize(beside - b.axis.xyz * (b.axis.w * length(beside)));
    float end = pow(max(1.0 - along / b.tip.w, 0.0), b.falloff.x), facing = pow(abs(dot(normal, d)), b.falloff.y);
    profile = b.axis.w / max(along, 0.02 * b.tip.w) * end * facing;
    thickness = b.intensity.w * b.axis.w * along * end * facing;
    share = parameters.beamLook.x > 0.0 ? clamp((surface - metres) / parameters.beamLook.x, 0.0, 1.0) : surface > metres ? 1.0 : 0.0;
#endif
    if (parameters.beamLook.y > 0.0) share *= clamp(metres / parameters.beamLook.y, 0.0, 1.0);
#ifdef BEAM_TEXTURE
    share *= mix(1.0, clamp(4.0 * airNoise((point - vec3(parameters.beamDrift.x, 0.0, 0.0)) * parameters.beamLook.w) - 1.5, 0.0, 1.0), parameters.beamLook.z);
#endif
    vec3 radiance = b.intensity.xyz * (profile * share * b.intensity.w / 12.5663706);
    outColor = vec4(dimmedByAir(radiance, point), parameters.beamDrift.y > 0.5 ? 1.0 - exp(-thickness) : 0.0);
}
