// Layers of surfaces: what the layers pass can show of each. Other techniques' layers take the same input.
struct LayerInput {
    vec3 position;
    vec3 normal;
    vec3 toEye;
    vec3 baseColor;
    float metallic;
    float roughness;
    float alpha;
    vec3 ambient;  // cd/m2, as they leave the surface
    vec3 diffuse;
    vec3 specular;
    vec3 emissive;
    vec3 chosen;   // of the one light that is asked for
};

vec4 layer_albedo(LayerInput i) { return vec4(i.baseColor, 1.0); }
vec4 layer_normal(LayerInput i) { return vec4(i.normal, 1.0); }
vec4 layer_material(LayerInput i) { return vec4(i.roughness, i.metallic, 0.0, 1.0); }
vec4 layer_ambient(LayerInput i) { return vec4(dimmedByAir(i.ambient, i.position), i.alpha); }
vec4 layer_diffuse(LayerInput i) { return vec4(dimmedByAir(i.diffuse, i.position), i.alpha); }
vec4 layer_specular(LayerInput i) { return vec4(dimmedByAir(i.specular, i.position), i.alpha); }
vec4 layer_emissive(LayerInput i) { return vec4(dimmedByAir(i.emissive, i.position), i.alpha); }
vec4 layer_light(LayerInput i) { return vec4(dimmedByAir(i.chosen, i.position), i.alpha); }
