// What the mesh vertex shader hands to the surface: VERTEX_INTERFACE is `out` on one side and `in` on the other.
VERTEX_INTERFACE VertexOut {
    vec3 position;  // world, metres
    vec3 normal;    // world, not unit
    vec4 tangent;   // world; w: the bitangent's sign
    vec2 uv;
    vec4 color;     // linear
    flat uint draw; // place in DrawBuffer
#ifdef LIGHT_MAP
    flat uint mapped; // 1: the surface has a place in the light map
    vec3 place;       // there, texels, and its chart
#endif
#ifdef BEND_BEFORE
    vec3 before;    // position where its object stood as it stands now, but was bent as in the frame before
#endif
} vertex;
