CASTER_INTERFACE CasterOut {
    vec2 uv;
    float alpha; // linear, of the vertex
    flat uint material;
} vertex;
