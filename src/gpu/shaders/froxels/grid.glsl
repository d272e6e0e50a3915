// Cells of air: columns of so many pixels, slices by distance from the eye, laid side by side in the targets. src/core/air/froxels.h has the same in double.
int froxelColumns() { return int(parameters.airGrid.x); }
int froxelRows() { return int(parameters.airGrid.y); }
int froxelSlices() { return int(parameters.airGrid.z); }
/// Metres from the eye where slice i begins; it ends where the next begins.
float airSliceBegin(float i) { return parameters.airDepths.x * pow(i / parameters.airGrid.z, parameters.airDepths.y); }
/// Where a distance lies, in slices.
float airSliceAt(float metres) { return pow(clamp(metres / parameters.airDepths.x, 0.0, 1.0), 1.0 / parameters.airDepths.y) * parameters.airGrid.z; }
ivec2 airSliceOrigin(int i) {
    int across = int(parameters.airGrid.w);
    return ivec2(i % across * froxelColumns(), i / across * froxelRows());
}
vec2 airTargetSize() {
    float across = parameters.airGrid.w;
    return vec2(across * parameters.airGrid.x, ceil(parameters.airGrid.z / across) * parameters.airGrid.y);
}
/// The way from the eye through a place of the picture (pixels, from below), unit.
vec3 airWay(vec2 place) {
    vec4 p = frame.inverseViewProjection * vec4(place / vec2(frame.width, frame.height) * 2.0 - 1.0, 1.0, 1.0);
    return normalize(p.xyz / p.w - frame.eye.xyz);
}
