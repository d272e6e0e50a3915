// The surface of a pixel as the G-buffer holds it.
#include "include/gbuffer.glsl"

uniform sampler2D baseColorMetallic;
uniform sampler2D normals;
uniform sampler2D roughnessUnlit;
uniform sampler2D depthTexture;

/// p: texel, rows from the bottom. False where no light falls: no surface, or an unlit one.
bool readDeferred(ivec2 p, out LitSurface s) {
    float depth = texelFetch(depthTexture, p, 0).r;
    vec4 roughness = texelFetch(roughnessUnlit, p, 0);
    if (depth <= 0.0 || roughness.y > 0.75) return false;
    receivesShadows = roughness.y < 0.25;
    placed = placeOnScreen = fract(roughness.y * 4.0) > 0.25; // an eighth is added to the others
#ifdef LIGHT_MAP
    lightMapped = placed;
#endif
    vec4 base = texelFetch(baseColorMetallic, p, 0);
    s.baseColor = unpackColor(base.rgb);
    s.metallic = base.a;
    s.roughness = roughness.x;
    s.thickness = 0.0;
#ifdef OPTICS
    s.optics = opticsOf(uint(round(roughness.a * 255.0)));
    if (s.optics.farthest > 0.0) {
        s.thickness = s.metallic * s.optics.thickness;
        s.metallic = 0.0;
    }
#else
    s.optics = opticsOf(0u);
#endif
    s.normal = unpackNormal(texelFetch(normals, p, 0));
    vec2 ndc = (vec2(p) + 0.5) / vec2(frame.width, frame.height) * 2.0 - 1.0;
    vec4 world = frame.inverseViewProjection * vec4(ndc, depth, 1.0);
    s.position = world.xyz / world.w;
    s.toEye = normalize(frame.eye.xyz - s.position);
    s.viewDepth = frame.forward.w / depth;
    s.alpha = 1.0;
    s.draw = 0u;
    s.unlit = false;
    return true;
}
