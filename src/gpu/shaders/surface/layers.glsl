// Layers of surfaces: what the layers pass can show of each. Other techniques' layers take the same input.
struct LayerInput {
    vec3 position;
    vec3 normal;
    vec3 toEye;
    vec3 baseColor;
    float metallic;
    float roughness;
    float occlusion; // the material's
    float alpha;
    vec3 ambient;  // cd/m2, as they leave the surface
    vec3 mirrored; // part of it
    vec3 reflected; // part of that: what the screen answers
    vec3 probes;    // part of ambient: what probes give
    vec3 diffuse;
    vec3 specular;
    vec3 emissive;
    uint object;   // number in the scene
    vec3 chosen;   // of the one light that is asked for
    vec2 arrived;  // luminance of all lamps' light that falls there, before and after what techniques leave of it
    vec2 chosenArrived; // of the one light
    bool unlit;
    bool blended;
    vec3 through; // of diffuse, what comes from behind
    vec3 baked;   // light from a map, as the surface sends it on
    vec3 bakedSpecular; // part of it
    bool mapped;  // it has a place in one
    vec2 place;   // there, texels
    float density; // texels a metre
    float chart;   // its number in its mesh
};

vec4 layer_albedo(LayerInput i) { return vec4(i.baseColor, 1.0); }
vec4 layer_normal(LayerInput i) { return vec4(i.normal, 1.0); }
vec4 layer_material(LayerInput i) { return vec4(i.roughness, i.metallic, 0.0, 1.0); }
/// A colour of its own for each object (hues by the golden ratio, three strengths); alpha: its number, plus one.
vec4 layer_objects(LayerInput i) {
    float hue = fract(float(i.object) * 0.6180339887);
    vec3 color = clamp(abs(fract(hue + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0);
    float strength = 0.35 + 0.25 * float(i.object % 3u);
    return vec4(mix(vec3(0.5), color, 0.7) * strength * (0.55 + 0.45 * abs(dot(i.normal, i.toEye))), float(i.object + 1u));
}
vec4 layer_ambient(LayerInput i) { return vec4(dimmedByAir(i.ambient, i.position), i.alpha); }
vec4 layer_direct(LayerInput i) { return vec4(dimmedByAir(i.diffuse + i.specular, i.position), i.alpha); }
vec4 layer_diffuse(LayerInput i) { return vec4(dimmedByAir(i.diffuse, i.position), i.alpha); }
vec4 layer_specular(LayerInput i) { return vec4(dimmedByAir(i.specular, i.position), i.alpha); }
vec4 layer_emissive(LayerInput i) { return vec4(dimmedByAir(i.emissive, i.position), i.alpha); }
vec4 layer_light(LayerInput i) { return vec4(dimmedByAir(i.chosen, i.position), i.alpha); }
