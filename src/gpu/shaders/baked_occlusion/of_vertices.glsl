// How open the surface is, as its vertices have it (surface/vertex.glsl).
float vertexOpenness(vec2 place) { return opennessHere; }
