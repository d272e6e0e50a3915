// How open the surface is, from the texture in the map's layout. C++ side: src/core/bake/occlusion_bake.h.
uniform sampler2DArray bakedOpenness;

float texelOpenness(vec2 place) {
    countOf(COUNTER_opennessReads, 1u);
    return textureLod(bakedOpenness, vec3(place / vec2(textureSize(bakedOpenness, 0).xy), 0.0), 0.0).r;
}
