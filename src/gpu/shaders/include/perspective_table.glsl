// The table of air before surfaces: 32 slices of 32 x 32 columns, 8 x 4 of them side by side; slice i holds what lies before sliceDistance(i).
const int airColumns = 32, airSlices = 32;
float sliceDistance(int i) {
    float s = float(i + 1) / float(airSlices);
    return parameters.skyMore.w * s * s;
}
ivec2 sliceOrigin(int i) { return ivec2(i & 7, i >> 3) * airColumns; }
