// Layers of the air before a surface.
vec4 layer_transmittance(LayerInput i) {
    vec3 transmittance, scattered;
    airBefore(i.position, false, transmittance, scattered);
    return vec4(transmittance, 1.0);
}
vec4 layer_airlight(LayerInput i) {
    vec3 transmittance, scattered;
    airBefore(i.position, false, transmittance, scattered);
    return vec4(scattered, i.alpha);
}
