// What the mesh vertex shader hands to the surface: VERTEX_INTERFACE is `out` on one side and `in` on the other.
#if defined(VERTEX_OCCLUSION) && !defined(BLENDED) && (defined(PASS_LIT) || defined(PASS_AMBIENT) || defined(PASS_GBUFFER) || defined(PASS_LAYERS) || defined(PASS_PROBE))
#define OPEN_VERTICES
#endif
VERTEX_INTERFACE VertexOut {
    vec3 position;  // world, metres
    vec3 normal;    // world, not unit
    vec4 tangent;   // world; w: the bitangent's sign
    vec2 uv;
    vec4 color;     // linear
    flat uint draw; // place in DrawBuffer
#ifdef MAP_PLACES
    flat uint mapped; // 1: the surface has a place in what was baked by texel
    vec3 place;       // there, texels, and its chart
#endif
#ifdef OPEN_VERTICES
    float openness; // how open it is
#endif
#ifdef BEND_BEFORE
    vec3 before;    // position where its object stood as it stands now, but was bent as in the frame before
#endif
} vertex;
