// The surface of a pixel as the G-buffer holds it, and what one light adds to it.
#include "include/gbuffer.glsl"

layout(binding = 0) uniform sampler2D baseColorMetallic;
layout(binding = 1) uniform sampler2D normals;
layout(binding = 2) uniform sampler2D roughnessUnlit;
layout(binding = 3) uniform sampler2D depthTexture;

struct DeferredSurface {
    vec3 position;   // world, metres
    vec3 normal;     // world, unit
    vec3 toEye;      // unit
    vec3 baseColor;  // linear
    float metallic;
    float roughness;
    float viewDepth; // metres
};

/// p: texel, rows from the bottom. False where no light falls: no surface, or an unlit one.
bool readDeferred(ivec2 p, out DeferredSurface s) {
    float depth = texelFetch(depthTexture, p, 0).r;
    vec2 roughness = texelFetch(roughnessUnlit, p, 0).rg;
    if (depth <= 0.0 || roughness.y > 0.5) return false;
    vec4 base = texelFetch(baseColorMetallic, p, 0);
    s.baseColor = unpackColor(base.rgb);
    s.metallic = base.a;
    s.roughness = roughness.x;
    s.normal = unpackNormal(texelFetch(normals, p, 0));
    vec2 ndc = (vec2(p) + 0.5) / vec2(frame.width, frame.height) * 2.0 - 1.0;
    vec4 world = frame.inverseViewProjection * vec4(ndc, depth, 1.0);
    s.position = world.xyz / world.w;
    s.toEye = normalize(frame.eye.xyz - s.position);
    s.viewDepth = frame.forward.w / depth;
    return true;
}

vec3 lightDeferred(LightData light, DeferredSurface s) {
    vec3 toLight, diffuse, specular;
    vec3 irradiance = normalIrradiance(light, s.position, toLight);
    float facing = dot(s.normal, toLight);
    if (facing <= 0.0 || irradiance.r + irradiance.g + irradiance.b <= 0.0) return vec3(0.0); // out of range, cone or horizon
    countReached();
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, frame.exponent, NORMALISED == 1, s.normal, toLight, s.toEye, diffuse, specular);
    return (diffuse + specular) * irradiance * facing;
}
