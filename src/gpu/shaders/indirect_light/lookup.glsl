// Light from the map, as it is stored. C++ side: gpu/passes/indirect_light.cpp; the reference of stores is src/core/bake/texel_store.h.
struct MapLayer {
    vec4 factor; // of its light, per channel; w: its place in the arrays
};
layout(std430) readonly buffer MapLayerBuffer { MapLayer mapLayers[]; };
uniform sampler2DArray mapLight;
#if MAP_DIRECTIONS > 0
uniform sampler2DArray mapDirections; // MAP_DIRECTIONS for each layer
#endif

vec3 mapTexels(vec2 place, float layer) {
#if MAP_FACTORED // roots over a factor: each of the four texels is decoded before they are joined
    ivec2 last = textureSize(mapLight, 0).xy - 1;
    vec2 low = floor(place - 0.5), f = place - 0.5 - low;
    vec3 sum = vec3(0.0);
    for (int k = 0; k < 4; ++k) {
        ivec2 corner = ivec2(k & 1, k >> 1);
        vec4 v = texelFetch(mapLight, ivec3(clamp(ivec2(low) + corner, ivec2(0), last), int(layer)), 0);
        vec2 share = mix(1.0 - f, f, vec2(corner));
        vec3 root = v.rgb * v.a;
        sum += share.x * share.y * root * root;
    }
    countOf(COUNTER_mapReads, 4u);
    return sum;
#else
    countOf(COUNTER_mapReads, 1u);
    return textureLod(mapLight, vec3(place / vec2(textureSize(mapLight, 0).xy), layer), 0.0).rgb;
#endif
}

/// place: texels.
BakedLight bakedLight(vec2 place) {
    BakedLight all = noBakedLight;
    uint count = uint(parameters.lightMap.x);
    for (uint i = 0u; i < count; ++i) {
        vec3 light = mapTexels(place, mapLayers[i].factor.w) * mapLayers[i].factor.rgb;
        all.light += light;
#if MAP_DIRECTIONS > 0
        vec2 at = place / vec2(textureSize(mapDirections, 0).xy);
        float first = mapLayers[i].factor.w * float(MAP_DIRECTIONS);
        countOf(COUNTER_mapReads, uint(MAP_DIRECTIONS));
        vec3 toward = textureLod(mapDirections, vec3(at, first), 0.0).xyz * 2.0 - 1.0;
#if MAP_DIRECTIONS == 1
        float bright = dot(light, vec3(0.2126, 0.7152, 0.0722));
        all.toward[0] += bright * toward;
#else
        all.toward[0] += light.r * toward;
        all.toward[1] += light.g * (textureLod(mapDirections, vec3(at, first + 1.0), 0.0).xyz * 2.0 - 1.0);
        all.toward[2] += light.b * (textureLod(mapDirections, vec3(at, first + 2.0), 0.0).xyz * 2.0 - 1.0);
#endif
#endif
    }
#if MAP_DIRECTIONS == 1
    all.toward[0] /= max(dot(all.light, vec3(0.2126, 0.7152, 0.0722)), 1e-12);
    all.toward[1] = all.toward[2] = all.toward[0];
#elif MAP_DIRECTIONS == 3
    all.toward[0] /= max(all.light.r, 1e-12);
    all.toward[1] /= max(all.light.g, 1e-12);
    all.toward[2] /= max(all.light.b, 1e-12);
#endif
    return all;
}
