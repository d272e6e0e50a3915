#version 450 core
// Known vertex work of calibration: triangles beside the picture (OUTSIDE), small ones on it, or one over all of it.
uniform mat4 place;
uniform int columns; // of small triangles

void main() {
    int corner = gl_VertexID % 3, triangle = gl_VertexID / 3;
#if defined(OUTSIDE)
    gl_Position = place * vec4(5.0 + float(corner), 5.0 + float(triangle & 255), 0.0, 1.0);
#elif defined(SMALL)
    vec2 at = vec2(triangle % columns, triangle / columns) / float(columns) * 2.0 - 1.0;
    gl_Position = place * vec4(at + vec2(corner == 1 ? 1.0 : 0.0, corner == 2 ? 1.0 : 0.0) * 1.6 / float(columns), 0.5, 1.0);
#else
    gl_Position = place * vec4(corner == 1 ? 3.0 : -1.0, corner == 2 ? 3.0 : -1.0, 0.5, 1.0);
#endif
}
